/** Calls back once when an element comes within some screens of what is seen. */
const waiting = new WeakMap<Element, () => void>()
let observer: IntersectionObserver | null = null

export function watchNear(element: Element, near: () => void): () => void {
  observer ??= new IntersectionObserver(
    (entries) => {
      for (const e of entries) if (e.isIntersecting) waiting.get(e.target)?.()
    },
    { rootMargin: '1500px 0px' },
  )
  waiting.set(element, near)
  observer.observe(element)
  return () => {
    waiting.delete(element)
    observer?.unobserve(element)
  }
}
