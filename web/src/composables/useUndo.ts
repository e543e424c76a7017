import { shallowRef } from 'vue'

import { api } from '@/api/client'

import type { Ref } from 'vue'

/** Takes back the edit that the page shows as a study's newest, or does again the one
 * that was taken back last; when another edit came after it, the server says which. */
export function useUndo(study: Ref<number>, after: () => Promise<unknown>) {
  const error = shallowRef<Error | null>(null)
  async function step(which: 'undo' | 'redo', edit: number): Promise<void> {
    error.value = null
    try {
      await api[which](study.value, edit)
    } catch (cause) {
      error.value = cause as Error
    }
    await after()
  }
  return { error, step }
}
