/** Where a question stands in an address: its number, which a reader knows, and what keeps the
 * address right when numbers shift. Addresses with the number alone are still read. */
const form = /^#q(\d+)(?:\.(\d+))?$/

interface Placed {
  id: number
  number: number
}

export const questionHash = (q: Placed) => `#q${q.number}.${q.id}`

/** The number that a hash names, as it was when the address was made; null where it names none. */
export const numberIn = (hash: string) => (form.exec(hash) ? Number(form.exec(hash)![1]) : null)

export function namesQuestion(hash: string, q: Placed): boolean {
  const [, number, id] = form.exec(hash) ?? []
  return number !== undefined && (id === undefined ? Number(number) === q.number : Number(id) === q.id)
}
