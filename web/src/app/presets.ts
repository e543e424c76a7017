/** What a remedy or an arrival has filled in already, by question and method, until the form is opened. */
export const presets = new Map<string, { settings: Record<string, unknown>; others: string[] }>()
export const presetKey = (question: number, method: string) => `${question}/${method}`
