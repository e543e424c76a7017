import { defineStore } from 'pinia'
import { ref } from 'vue'

/** A question as the quick-find lists it. */
export interface Findable {
  title: string
  hash: string
}

/** What several pages share: the study that is open, at first that of the address, and the last thing that can be undone. */
export const useSession = defineStore('session', () => {
  const studyId = ref<number | null>(Number(/^\/studies\/(\d+)/.exec(location.pathname)?.[1]) || null)
  const findable = ref<Findable[]>([])
  /** What one may do with the study that is open beside seeing it. */
  const may = ref({ ask: true, change: true })
  const undo = ref<{ text: string; run: () => Promise<void> } | null>(null)

  function open(id: number, questions: Findable[]): void {
    if (studyId.value !== id) may.value = { ask: true, change: true }
    studyId.value = id
    findable.value = questions
  }

  function leave(id: number): void {
    if (studyId.value === id) {
      studyId.value = null
      findable.value = []
    }
  }

  function offerUndo(text: string, run: () => Promise<void>): void {
    undo.value = { text, run }
  }

  return { studyId, findable, may, undo, open, leave, offerUndo }
})
