import { computed, onBeforeUnmount, onMounted, ref } from 'vue'

import type { Ref } from 'vue'

/** The rows of a long table that are on the screen, with the room above and below them,
 * so that a table of any length opens and scrolls without a wait. */
export function useWindow(scroller: Readonly<Ref<HTMLElement | null>>, count: () => number, rowHeight: number, spare = 12) {
  const top = ref(0)
  const height = ref(600)
  let watcher: ResizeObserver | null = null

  function scrolled() {
    top.value = scroller.value?.scrollTop ?? 0
  }
  onMounted(() => {
    if (!scroller.value) return
    watcher = new ResizeObserver(() => (height.value = scroller.value?.clientHeight ?? 600))
    watcher.observe(scroller.value)
  })
  onBeforeUnmount(() => watcher?.disconnect())

  const first = computed(() => Math.max(0, Math.min(count() - 1, Math.floor(top.value / rowHeight) - spare)))
  const last = computed(() => Math.min(count(), Math.ceil((top.value + height.value) / rowHeight) + spare))
  const above = computed(() => first.value * rowHeight)
  const below = computed(() => Math.max(0, count() - last.value) * rowHeight)
  return { scrolled, first, last, above, below }
}
