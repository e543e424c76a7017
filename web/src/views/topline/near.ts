import { onBeforeUnmount, onMounted, shallowRef, watch } from 'vue'

import { whenIdle } from '@/app/idle'

import type { Outlined } from '@/api/client'
import type { Directive } from 'vue'

/** What is seen first has so long, in ms, to be drawn alone. */
const afterFirst = 400

/** Which questions have come near the screen. A place that waits is a plain element with the
 * directive, so that thousands of them cost little; printing brings all. */
export function useNear(came: (id: number) => void) {
  const near = shallowRef(new Set<number>())
  const waiting = new Map<Element, number>()
  let observer: IntersectionObserver | null = null
  /** First what is seen; once that is there, what is some screens away, too. */
  let reach = '0px'
  let timer = 0
  function observe() {
    observer?.disconnect()
    observer = new IntersectionObserver(
      (entries) => come(entries.filter((e) => e.isIntersecting).flatMap((e) => waiting.get(e.target) ?? [])),
      { rootMargin: `${reach} 0px` },
    )
    for (const element of waiting.keys()) observer.observe(element)
  }
  function further() {
    reach = '900px'
    observe()
  }

  function come(ids: number[]) {
    const fresh = ids.filter((id) => !near.value.has(id))
    if (!fresh.length) return
    near.value = new Set([...near.value, ...fresh])
    for (const id of fresh) came(id)
  }
  const vNear: Directive<HTMLElement, number> = {
    mounted(element, { value }) {
      waiting.set(element, value)
      if (observer) observer.observe(element)
      else observe()
      timer ||= window.setTimeout(further, afterFirst)
    },
    unmounted(element) {
      waiting.delete(element)
      observer?.unobserve(element)
    },
  }
  let all: () => number[] = () => []
  const print = () => come(all())
  onMounted(() => window.addEventListener('beforeprint', print))
  onBeforeUnmount(() => {
    observer?.disconnect()
    clearTimeout(timer)
    window.removeEventListener('beforeprint', print)
  })
  return { near, come, vNear, printsAll: (ids: () => number[]) => (all = ids) }
}

/** What is seen first of a questionnaire is drawn first; what this returns draws the rest, a few
 * at a time, when the browser has nothing else to do. */
const seenFirst = 2
const atATime = 2
export function inTurn({ near, come }: Pick<ReturnType<typeof useNear>, 'near' | 'come'>, outline: () => Outlined[], first: () => number) {
  let gone = false
  onBeforeUnmount(() => (gone = true))
  watch(outline, (all) => {
    const from = Math.max(0, first() - 2)
    if (!near.value.size) come(all.slice(from, from + seenFirst).map((q) => q.id))
  }, { immediate: true, flush: 'sync' })
  return function drawRest() {
    const rest = outline().filter((q) => !near.value.has(q.id)).slice(0, atATime)
    if (!rest.length || gone) return
    come(rest.map((q) => q.id))
    whenIdle(drawRest)
  }
}

/** Goes to the question after the one that has the focus or stands on top, or to that before it. */
export function stepTo(by: 1 | -1) {
  const blocks = [...document.querySelectorAll<HTMLElement>('section.question')]
  const top = 80
  const here = blocks.findIndex((b) => b.getBoundingClientRect().bottom > top + 1)
  const focused = blocks.findIndex((b) => b === document.activeElement)
  const from = focused >= 0 ? focused + by : by > 0 ? here : here - 1
  const target = blocks[Math.min(Math.max(from, 0), blocks.length - 1)]
  target?.scrollIntoView({ block: 'start' })
  target?.focus({ preventScroll: true })
}
