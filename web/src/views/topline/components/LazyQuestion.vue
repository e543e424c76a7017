<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, useTemplateRef } from 'vue'

import { watchNear } from '../near'

import type { Outlined } from '@/api/client'

/** A question that is asked for and drawn only when it comes near the screen; until then its
 * wording holds its place, so that the page of a long questionnaire opens at once and can
 * still be searched and stepped through. */
defineOptions({ inheritAttrs: false })
const props = defineProps<{ question: Outlined; loaded: boolean; eager: boolean }>()
const emit = defineEmits<{ near: [] }>()
const drawn = ref(props.eager)
const place = useTemplateRef<HTMLElement>('place')
const height = computed(() => 150 + 31 * (props.question.answers + 4 * props.question.analyses.length))
let stop: (() => void) | null = null

function draw() {
  drawn.value = true
  emit('near')
  stop?.()
  stop = null
}
onMounted(() => {
  if (drawn.value) return emit('near')
  if (!place.value) return
  stop = watchNear(place.value, draw)
  window.addEventListener('beforeprint', draw, { once: true })
})
onBeforeUnmount(() => {
  stop?.()
  window.removeEventListener('beforeprint', draw)
})
</script>

<template>
  <slot v-if="drawn && loaded" />
  <section
    v-else
    v-bind="$attrs"
    ref="place"
    class="question waiting"
    tabindex="-1"
    :style="{ minHeight: `${height}px` }"
    :aria-label="`${question.number}. ${question.wording}`"
    @focus="draw"
  >
    <h2>{{ question.number }} {{ question.wording }}</h2>
  </section>
</template>

<style scoped>
.waiting { padding: 22px 30px 0 34px; scroll-margin-top: 62px; }
h2 { font-size: 19px; font-weight: 500; color: var(--soft); }
</style>
