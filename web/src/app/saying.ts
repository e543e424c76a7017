/** A text with its blanks: words, the place of a value, or words whose form follows one. */
export type Piece = string | [value: string, ...forms: string[]]

/** The plural forms of a language in the order in which texts hold them (Unicode CLDR). */
const order: Intl.LDMLPluralRule[] = ['zero', 'one', 'two', 'few', 'many', 'other']
export function pluralsOf(language: string) {
  const rules = new Intl.PluralRules(language)
  const categories = order.filter((c) => rules.resolvedOptions().pluralCategories.includes(c))
  /** The form that goes with a number as it is written; # in it stands for that number. A form for
   * none, which begins with =0, may stand before those of the language. */
  return (written: string, forms: string[]): string => {
    const digits = written.replace(/\D/g, '')
    const n = digits === '' ? NaN : Number(digits)
    const none = forms[0]?.startsWith('=0 ') ?? false
    const chosen = none && n === 0 ? forms[0]!.slice(3) : forms[categories.indexOf(rules.select(n)) + (none ? 1 : 0)]
    return (chosen ?? forms[forms.length - 1] ?? '').replace('#', written)
  }
}
