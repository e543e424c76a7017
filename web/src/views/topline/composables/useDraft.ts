import { kept } from '@/app/kept'

/** What was typed into a form and not asked yet; it outlives Escape, a change of place and
 * a reload of the page. */
export function useDraft(study: number, question: number, name: string) {
  const draft = kept<Record<string, unknown>>(`draft/${study}/${question}/${name}`, sessionStorage)
  return {
    found: draft.value,
    keep: (settings: Record<string, unknown>) => (draft.value = settings),
    drop: () => (draft.value = null),
  }
}
