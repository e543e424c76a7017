import { ref, watch } from 'vue'

import type { useAsking } from './useAsking'

/** The keys of a question that has the focus: what opens a method, and `r` for the report. */
export function useQuestionKeys(
  { byName, methods, asking, open }: Pick<ReturnType<typeof useAsking>, 'byName' | 'methods' | 'asking' | 'open'>,
  selectable: () => boolean,
  select: () => void,
) {
  /** A key that is pressed before the methods are known waits for them. */
  const early = ref('')
  watch(() => byName.value.size, () => {
    const method = methods.value.find((m) => m.key === early.value)
    if (method) open(method)
  })
  return function keyed(event: KeyboardEvent) {
    if (event.target !== event.currentTarget || event.ctrlKey || event.metaKey || event.altKey) return
    if (event.key === 'r' && selectable()) {
      event.preventDefault()
      return select()
    }
    if (!byName.value.size) early.value = event.key
    const method = methods.value.find((m) => m.key === event.key)
    if (!method) return
    event.preventDefault()
    if (asking.value !== method.name) open(method)
  }
}
