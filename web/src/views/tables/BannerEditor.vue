<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import { useI18n } from 'vue-i18n'

import { collate } from '@/app/format'
import CellField from '@/components/CellField.vue'

import type { Banner, BannerBreak, BookQuestion, BooksPage } from '@/api/client'

/** The columns of the tables, break by break: added by picking, arranged by dragging or keys, each with its label and
 * the answers that are columns. */
const props = defineProps<{
  banner: Banner
  page: BooksPage
  byKey: Map<string, BookQuestion>
  problems: { pointer: string; text: string }[]
}>()
const emit = defineEmits<{ arrange: [edit: (b: Banner) => void] }>()
const { t } = useI18n()
const chosen = ref<number | null>(null)
const dragged = ref<number | null>(null)
const list = ref<HTMLElement | null>(null)
const picked = ref<string | null>(null)

const called = (q: BookQuestion | undefined) => (q ? q.short || q.wording || q.name : t('tables.banner.gone'))
const titleOf = (b: BannerBreak) => {
  if (b.label) return b.label
  if (b.subgroup) return props.page.subgroups.find((g) => String(g.id) === b.subgroup)?.name ?? t('tables.banner.gone')
  if (!b.questions?.length) return t('tables.banner.everyone')
  return [...b.questions].reverse().map((key) => called(props.byKey.get(key))).join(t('tables.banner.within'))
}
const options = computed(() => [
  { value: 'all', title: t('tables.banner.everyone') },
  ...props.page.questions.filter((q) => q.inner && q.answers.length > 0)
    .map((q) => ({ value: `q${q.id}`, title: `${q.number} · ${called(q)}` })),
  ...[...props.page.subgroups].sort((a, b) => collate(a.name, b.name))
    .map((g) => ({ value: `g${g.id}`, title: t('tables.banner.subgroup', { name: g.name }) })),
])
function add(value: string | null) {
  if (!value) return
  const of: BannerBreak = value === 'all' ? {} : value[0] === 'q' ? { questions: [value.slice(1)] } : { subgroup: value.slice(1) }
  emit('arrange', (b) => b.breaks.push(of))
  void nextTick(() => (picked.value = null))
}
function move(from: number, to: number) {
  if (to < 0 || to >= props.banner.breaks.length || to === from) return
  emit('arrange', (b) => b.breaks.splice(to, 0, ...b.breaks.splice(from, 1)))
  if (chosen.value === from) chosen.value = to
  void nextTick(() => list.value?.querySelectorAll<HTMLElement>('.name')[to]?.focus())
}
function remove(i: number) {
  chosen.value = null
  emit('arrange', (b) => b.breaks.splice(i, 1))
}
const edit = (i: number, f: (b: BannerBreak) => void) => emit('arrange', (b) => f(b.breaks[i]!))

const now = computed(() => (chosen.value === null ? undefined : props.banner.breaks[chosen.value]))
const questions = computed(() => (now.value?.questions ?? []).map((key) => props.byKey.get(key)))
/** The questions within whose answers a break can stand. */
const outer = computed(() => props.page.questions
  .filter((q) => q.outer && q.answers.length > 1 && !(now.value?.questions ?? []).includes(String(q.id)))
  .map((q) => ({ value: String(q.id), title: `${q.number} · ${called(q)}` })))
const within = (key: string | null) => key && edit(chosen.value!, (b) => {
  b.questions = [key, ...(b.questions ?? [])]
  if (b.answers) b.answers = [[], ...b.answers]
})
const alone = () => edit(chosen.value!, (b) => {
  b.questions = (b.questions ?? []).slice(1)
  b.answers = (b.answers ?? []).slice(1)
})
const isColumn = (at: number, code: string) => {
  const codes = now.value?.answers?.[at] ?? []
  return codes.length === 0 || codes.includes(code)
}
function turn(at: number, code: string) {
  const all = questions.value[at]?.answers.map((a) => a.code) ?? []
  const left = all.filter((c) => (c === code ? !isColumn(at, c) : isColumn(at, c)))
  if (left.length === 0) return
  edit(chosen.value!, (b) => {
    const answers = (b.questions ?? []).map((_, i) => b.answers?.[i] ?? [])
    answers[at] = left.length === all.length ? [] : left
    b.answers = answers.every((a) => a.length === 0) ? [] : answers
  })
}
</script>

<template>
  <div class="banner" data-test="banner">
    <ul ref="list" class="breaks" :aria-label="t('tables.banner.label')">
      <li
        v-for="(b, i) in banner.breaks"
        :key="i"
        :class="{ on: chosen === i, dragged: dragged === i }"
        draggable="true"
        :data-test="`break-${i}`"
        @dragstart="dragged = i"
        @dragend="dragged = null"
        @dragover.prevent
        @drop.prevent="dragged !== null && move(dragged, i)"
        @keydown.alt.left.prevent="move(i, i - 1)"
        @keydown.alt.right.prevent="move(i, i + 1)"
      >
        <span class="grip" aria-hidden="true">⠿</span>
        <button type="button" class="name" :aria-expanded="chosen === i" @click="chosen = chosen === i ? null : i">{{ titleOf(b) }}</button>
      </li>
      <li class="add">
        <v-autocomplete
          v-model="picked"
          :items="options"
          :label="t('tables.banner.add')"
          density="compact"
          hide-details
          auto-select-first
          :custom-filter="(title: string, query: string) => title.toLowerCase().includes(query.toLowerCase())"
          data-test="add-break"
          @update:model-value="add"
        />
      </li>
    </ul>
    <p v-for="p in problems" :key="p.pointer + p.text" class="problem">{{ p.text }}</p>
    <div v-if="now" class="edit" data-test="break-edit">
      <p class="acts">
        <label class="soft">{{ t('tables.banner.label_of') }}
          <CellField
            class="label"
            :value="now.label ?? ''"
            :placeholder="titleOf({ ...now, label: '' })"
            :label="t('tables.banner.label_of')"
            maxlength="120"
            data-test="break-label"
            @change="(text) => edit(chosen!, (b) => (b.label = text.trim()))"
          /></label>
        <button
          type="button"
          class="act"
          :disabled="chosen === 0"
          data-test="break-left"
          @click="move(chosen!, chosen! - 1)"
        >{{ t('tables.banner.left') }}</button>
        <button
          type="button"
          class="act"
          :disabled="chosen === banner.breaks.length - 1"
          data-test="break-right"
          @click="move(chosen!, chosen! + 1)"
        >{{ t('tables.banner.right') }}</button>
        <button type="button" class="act" data-test="break-remove" @click="remove(chosen!)">{{ t('tables.banner.remove') }}</button>
      </p>
      <div v-for="(q, at) in questions" :key="at" class="answers">
        <span class="soft">{{ t('tables.banner.answers', { question: called(q) }) }}</span>
        <v-checkbox
          v-for="a in q?.answers ?? []"
          :key="a.code"
          :model-value="isColumn(at, a.code)"
          :label="a.label"
          density="compact"
          hide-details
          @update:model-value="turn(at, a.code)"
        />
      </div>
      <p v-if="questions.length" class="acts nest">
        <v-autocomplete
          v-if="questions.length < 3"
          :model-value="null"
          :items="outer"
          :label="t('tables.banner.nest')"
          density="compact"
          hide-details
          class="within"
          data-test="break-within"
          @update:model-value="within"
        />
        <button
          v-if="questions.length > 1"
          type="button"
          class="act"
          data-test="break-alone"
          @click="alone"
        >{{ t('tables.banner.alone', { question: called(questions[0]) }) }}</button>
      </p>
    </div>
  </div>
</template>

<style scoped>
.banner { margin: 4px 0 18px; }
.breaks { list-style: none; padding: 0; display: flex; flex-wrap: wrap; gap: 8px 10px; align-items: center; }
.breaks li { display: inline-flex; align-items: center; border-bottom: 2px solid var(--rule); padding: 2px 6px 2px 2px; max-width: 100%; }
.breaks li.on { border-bottom-color: var(--teal); background: var(--tealwash); }
.breaks li.dragged { opacity: 0.5; }
.breaks li.add { border: 0; min-width: 250px; }
.add > * { width: 250px; }
.grip { cursor: grab; color: var(--soft); padding: 0 6px 0 2px; }
.name {
  font: inherit; background: none; border: 0; color: var(--ink); cursor: pointer; text-align: left; max-width: 330px; overflow-wrap: anywhere;
}
.edit { border-left: 3px solid var(--teal); margin: 10px 0 0; padding: 4px 0 4px 14px; display: grid; gap: 6px; max-width: 940px; }
.label { width: 240px; font: inherit; color: var(--ink); background: transparent; border: 0; border-bottom: 1px solid var(--rule); }
.answers { display: flex; flex-wrap: wrap; gap: 0 14px; align-items: center; }
.answers > * { flex: 0 0 auto; max-width: 100%; }
.within { flex: 0 0 300px; }
.problem { color: var(--rust); margin-top: 6px; }
</style>
