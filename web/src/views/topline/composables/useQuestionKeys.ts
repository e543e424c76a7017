import { ref, watch } from 'vue'

import type { Act } from '@/components/menu'

/** The keys of a question that has the focus: what it is asked most, and what opens the menu of all. */
export function useQuestionKeys(acts: () => Act[], settled: () => boolean, menu: () => void) {
  /** A key that is pressed before the methods are known waits for them. */
  const early = ref('')
  watch(settled, () => acts().find((a) => a.letter === early.value)?.act())
  return function keyed(event: KeyboardEvent) {
    if (event.target !== event.currentTarget || event.ctrlKey || event.metaKey || event.altKey) return
    if (event.key === '.') {
      event.preventDefault()
      return menu()
    }
    const act = acts().find((a) => a.letter === event.key)
    if (!act && !settled()) early.value = event.key
    if (!act) return
    event.preventDefault()
    if (!act.open) act.act()
  }
}
