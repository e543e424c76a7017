/** What was typed into a form and not asked yet; it outlives Escape, a change of place and
 * a reload of the page. */
export function useDraft(study: number, question: number, name: string) {
  const key = `draft/${study}/${question}/${name}`
  const kept = sessionStorage.getItem(key)
  return {
    found: kept === null ? null : (JSON.parse(kept) as Record<string, unknown>),
    keep: (settings: Record<string, unknown>) => sessionStorage.setItem(key, JSON.stringify(settings)),
    drop: () => sessionStorage.removeItem(key),
  }
}
