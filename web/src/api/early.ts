/** What was answered, its body read. */
export interface Came {
  ok: boolean
  status: number
  title: string
  data: unknown
}

export async function ask(url: string, request: RequestInit = {}): Promise<Came> {
  const response = await fetch(url, request)
  const data: unknown = response.status === 204 ? undefined : await response.json().catch(() => null)
  return { ok: response.ok, status: response.status, title: response.statusText, data }
}

/** What the page names in its head is asked for before anything else of the application is there,
 * and each answer is given out once, while it is new. */
const whileNew = 3000
const answers = new Map<string, Promise<Came>>()
for (const link of document.querySelectorAll<HTMLLinkElement>('link[rel="preload"][as="fetch"]')) {
  const answer = ask(link.href)
  answer.catch(() => undefined) // whoever wants it hears of it
  answers.set(link.href, answer)
}
addEventListener('load', () => setTimeout(forget, whileNew)) // the scripts that want them are there

export function early(url: string): Promise<Came> | undefined {
  const { href } = new URL(url, location.origin)
  const answer = answers.get(href)
  answers.delete(href)
  return answer
}

export function forget(): void {
  answers.clear()
}
