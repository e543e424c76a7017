/** What the page names in its head is asked for before anything else of the application is there,
 * and each answer is given out once, while it is new. */
const whileNew = 3000
const answers = new Map<string, Promise<Response>>()
for (const link of document.querySelectorAll<HTMLLinkElement>('link[rel="preload"][as="fetch"]')) {
  const answer = fetch(link.href)
  answer.catch(() => undefined) // whoever wants it hears of it
  answers.set(link.href, answer)
}
addEventListener('load', () => setTimeout(forget, whileNew)) // the scripts that want them are there

export function early(url: string): Promise<Response> | undefined {
  const answer = answers.get(url)
  answers.delete(url)
  return answer
}

export function forget(): void {
  answers.clear()
}
