/** What was typed into a claim's form and not stated yet; it outlives Escape, a change of
 * place and a reload of the page. */
export interface Draft<F extends object> {
  form: F
  figures: Record<number, string>
}

export function useDraft<F extends object>(study: number, question: number, claim: number | undefined) {
  const key = `claim-draft/${study}/${question}/${claim ?? 'new'}`
  const kept = sessionStorage.getItem(key)
  return {
    found: kept === null ? null : (JSON.parse(kept) as Draft<Partial<F>>),
    keep: (draft: Draft<F>) => sessionStorage.setItem(key, JSON.stringify(draft)),
    drop: () => sessionStorage.removeItem(key),
  }
}
