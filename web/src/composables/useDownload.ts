import { onBeforeUnmount, shallowRef } from 'vue'

import { api, ApiError } from '@/api/client'

/** Takes a file that the server has to write first: says that it is being written, can be
 * stopped, and tells what went wrong instead of leaving half a file. */
export function useDownload() {
  const writing = shallowRef('')
  const percent = shallowRef(0)
  const error = shallowRef<Error | null>(null)
  let stopping: AbortController | null = null

  async function take(address: string, name: string) {
    stopping?.abort()
    const mine = (stopping = new AbortController())
    writing.value = name
    error.value = null
    percent.value = 0
    const token = [...crypto.getRandomValues(new Uint8Array(12))].map((b) => b.toString(16).padStart(2, '0')).join('')
    const unwatch = api.watchWriting(token, (p) => (percent.value = p))
    try {
      const answer = await fetch(`${address}${address.includes('?') ? '&' : '?'}watch=${token}`, { signal: mine.signal })
      if (!answer.ok) {
        const problem = (await answer.json().catch(() => ({}))) as { title?: string; code?: string }
        throw new ApiError(answer.status, problem.code ?? 'unknown', problem.title ?? answer.statusText)
      }
      const file = URL.createObjectURL(await answer.blob())
      const link = document.createElement('a')
      link.href = file
      link.download = /filename="([^"]+)"/.exec(answer.headers.get('Content-Disposition') ?? '')?.[1] ?? name
      link.click()
      setTimeout(() => URL.revokeObjectURL(file), 60_000)
    } catch (cause) {
      if (!mine.signal.aborted) error.value = cause as Error
    } finally {
      unwatch()
      if (stopping === mine) writing.value = ''
    }
  }
  function stop() {
    stopping?.abort()
    writing.value = ''
  }
  onBeforeUnmount(stop)
  return { writing, percent, error, take, stop }
}
