<script setup lang="ts">
import { onMounted, ref, watch } from 'vue'

/** A formula in TeX, typeset in place. It says itself to a screen reader by its MathML. */
const props = defineProps<{ tex: string }>()
const place = ref<HTMLElement | null>(null)
async function set() {
  const [{ default: katex }] = await Promise.all([import('katex'), import('katex/dist/katex.min.css')])
  if (place.value) katex.render(props.tex, place.value, { throwOnError: false, strict: 'ignore' })
}
onMounted(set)
watch(() => props.tex, set)
</script>

<template>
  <span ref="place" class="math">{{ tex }}</span>
</template>

<style scoped>
.math { font-style: normal; overflow-x: auto; overflow-y: hidden; max-width: 100%; display: inline-block; vertical-align: middle; }
</style>
