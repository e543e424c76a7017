import { computed, onBeforeUnmount, provide, watch } from 'vue'
import { useRoute } from 'vue-router'

import { isLooking } from '@/app/who'
import { readingKey } from '@/components/reading'

/** A page that is only read looks as it is printed; the address says so. */
export function useReading() {
  const route = useRoute()
  const reading = computed(() => route.query.read === '1' || isLooking.value)
  const show = (on: boolean) => document.documentElement.classList.toggle('reading', on)
  watch(reading, show, { immediate: true })
  onBeforeUnmount(() => show(false))
  provide(readingKey, reading)
  return reading
}
