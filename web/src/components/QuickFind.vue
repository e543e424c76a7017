<script setup lang="ts">
import { computed, nextTick, onMounted, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'

import { useSession } from '@/app/session'
import { useMethods } from '@/composables/useMethods'

/** Finds a place, a question or a term by its words. `focused` says that it was called for. */
const props = defineProps<{ focused: boolean }>()
const { t } = useI18n()
const router = useRouter()
const session = useSession()
const { byName } = useMethods()

/** Keys are other words by which a thing is known; without an address it is only told. */
interface Target {
  title: string
  to: string
  keys?: string
}
const terms = {
  contribution: '/claims',
  residual: '/claims',
  frequency: '',
  recode: '/codebook',
  filter: '/codebook',
  cumulative: '',
  weights: '/codebook?show=design',
  correlation: null,
}
const targets = computed<Target[]>(() => {
  const list: Target[] = [
    { title: t('places.studies'), to: '/studies' },
    { title: t('places.intake'), to: '/intake' },
    { title: t('places.quick'), to: '/quick' },
  ]
  if (session.studyId !== null) {
    const base = `/studies/${session.studyId}`
    list.push(
      { title: t('places.topline'), to: base },
      { title: t('places.codebook'), to: base + '/codebook' },
      { title: t('places.check'), to: base + '/check' },
      { title: t('responses.title'), to: base + '/responses' },
      { title: t('places.claims'), to: base + '/claims' },
    )
    for (const f of session.findable) list.push({ title: f.title, to: base + f.hash })
    for (const [term, place] of Object.entries(terms))
      list.push({
        title: t(`find.terms.${term}.title`),
        keys: t(`find.terms.${term}.keys`),
        to: place === null ? '' : base + place,
      })
    // What can be asked of a question, by its name in the trade.
    for (const m of byName.value.values())
      if (m.questions.length) list.push({ title: `${t(`ask.${m.texts}.act`)}: ${t(`ask.${m.texts}.for`)}`, keys: t(`ask.${m.texts}.terms`), to: base })
  }
  return list
})

const field = ref<{ focus: () => void } | null>(null)
const chosen = ref<Target | null>(null)
const focus = () => field.value?.focus()
onMounted(() => props.focused && nextTick(focus))
defineExpose({ focus })

/** Every word typed has to be in the title, or in a word by which the thing is known. */
function matches(_: string, typed: string, item?: { raw: Target }) {
  const text = `${item?.raw.title ?? ''} ${item?.raw.keys ?? ''}`.toLowerCase()
  return typed.toLowerCase().split(/\s+/).every((word) => text.includes(word))
}

async function go(target: Target | null) {
  if (target && target.to === '') chosen.value = null
  else if (target) {
    await router.push(target.to)
    chosen.value = null
    if (document.activeElement instanceof HTMLElement) document.activeElement.blur()
  }
}
</script>

<template>
  <v-autocomplete
    ref="field"
    v-model="chosen"
    :items="targets"
    item-title="title"
    return-object
    :placeholder="t('app.find')"
    :aria-label="t('app.find')"
    :no-data-text="t('app.nothing_found')"
    :custom-filter="matches"
    menu-icon=""
    auto-select-first
    data-test="find"
    @update:model-value="go"
  >
    <template #append-inner><kbd aria-hidden="true">/</kbd></template>
  </v-autocomplete>
</template>

<style scoped>
:deep(.v-field__input) {
  min-height: 30px;
  padding: 0;
}
:deep(input) {
  font-size: 14.5px;
  text-overflow: ellipsis;
}
:deep(input::placeholder) {
  color: var(--soft);
  opacity: 1;
}
</style>
