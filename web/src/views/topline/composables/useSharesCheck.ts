import { onBeforeUnmount, shallowRef } from 'vue'

import { api } from '@/api/client'

import type { SharesCheck, SharesEntry } from '@/api/client'

const pause = 220

/** Asks the server what the entered shares amount to, a moment after the last key. */
export function useSharesCheck(studyId: () => number, questionId: () => number) {
  const check = shallowRef<SharesCheck | null>(null)
  const error = shallowRef<Error | null>(null)
  let timer: ReturnType<typeof setTimeout> | undefined
  let current: AbortController | null = null

  async function now(entry: SharesEntry): Promise<SharesCheck | null> {
    clearTimeout(timer)
    current?.abort()
    const mine = new AbortController()
    current = mine
    try {
      const found = await api.checkShares(studyId(), questionId(), entry, mine.signal)
      if (mine.signal.aborted) return null
      check.value = found
      error.value = null
      return found
    } catch (cause) {
      if (!mine.signal.aborted) error.value = cause as Error
      return null
    }
  }

  function soon(entry: SharesEntry): void {
    clearTimeout(timer)
    timer = setTimeout(() => void now(entry), pause)
  }

  onBeforeUnmount(() => {
    clearTimeout(timer)
    current?.abort()
  })
  return { check, error, now, soon }
}
