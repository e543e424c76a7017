import { shallowRef } from 'vue'

import { api } from '@/api/client'

import type { Ref } from 'vue'

/** Takes a study's newest edit back, or does again what was taken back. */
export function useUndo(study: Ref<number>, after: () => Promise<unknown>) {
  const error = shallowRef<Error | null>(null)
  async function step(which: 'undo' | 'redo'): Promise<void> {
    error.value = null
    try {
      await api[which](study.value)
    } catch (cause) {
      error.value = cause as Error
    }
    await after()
  }
  return { error, step }
}
