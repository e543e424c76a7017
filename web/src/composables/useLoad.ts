import { onBeforeUnmount, ref, shallowRef } from 'vue'

/** Loads something, remembering whether it is under way and what went wrong; an
 * answer that comes after a newer request, or after the page has gone, is dropped. */
export function useLoad<T, A extends unknown[]>(get: (signal: AbortSignal, ...args: A) => Promise<T>) {
  const data = shallowRef<T | null>(null)
  const loading = ref(false)
  const error = shallowRef<Error | null>(null)
  let current: AbortController | null = null

  async function run(...args: A): Promise<T | null> {
    current?.abort()
    const mine = new AbortController()
    current = mine
    loading.value = true
    try {
      const found = await get(mine.signal, ...args)
      if (mine.signal.aborted) return null
      data.value = found
      error.value = null
      return found
    } catch (cause) {
      if (mine.signal.aborted) return null
      error.value = cause as Error
      return null
    } finally {
      if (current === mine) loading.value = false
    }
  }

  onBeforeUnmount(() => current?.abort())
  return { data, loading, error, run }
}
