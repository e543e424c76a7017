import { shallowRef } from 'vue'

/** Runs work whose failure is shown where it was asked for; what follows, such as loading
 * anew, is done either way. */
export function useAttempt(follow?: () => Promise<unknown>) {
  const error = shallowRef<Error | null>(null)

  /** Gives what the work gave, or null when it failed and error says why. */
  async function attempt<T>(work: () => Promise<T>): Promise<{ value: T } | null> {
    error.value = null
    try {
      return { value: await work() }
    } catch (cause) {
      error.value = cause as Error
      return null
    } finally {
      await follow?.()
    }
  }

  return { error, attempt }
}
