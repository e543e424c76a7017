<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import CheckTable from '@/components/CheckTable.vue'
import { count } from '@/app/format'

import ArrivalProblems from './ArrivalProblems.vue'
import FirstRows from './FirstRows.vue'
import SettingsSentence from './SettingsSentence.vue'

import type { Arrival, CheckedQuestion, ColumnChoice, Found, Remedy, Settings } from '@/api/client'

const props = defineProps<{ arrival: Arrival; choices: Map<string, ColumnChoice>; fresh: boolean }>()
const emit = defineEmits<{
  settings: [settings: Settings]
  choose: [name: string, change: Partial<ColumnChoice>]
  chooseMany: [changes: Map<string, Partial<ColumnChoice>>]
  another: []
  addFile: [file: File]
}>()
const { t } = useI18n()
const found = (n: number, questions: number) =>
  `${t('intake.found_rows', { n: count(n) }, n)}, ${t('topline.questions', { n: count(questions) }, questions)}`

const preview = computed(() => props.arrival.preview)
const problems = computed(() => (props.arrival.problem ? [props.arrival.problem] : (preview.value?.problems ?? [])))
const lacksFile = computed(() => problems.value.some((p) => p.code === 'missing_file'))
/** Problems about how the table is meant are said in the sentence above them. */
const unreadable = computed(
  () => props.arrival.problem !== null && ['empty', 'binary', 'other_zip', 'bad_workbook'].includes(props.arrival.problem.code),
)
const skipped = computed(() => [...props.choices.values()].filter((c) => c.skip).map((c) => c.name))

function set(change: Partial<Settings>) {
  emit('settings', { ...props.arrival.settings, ...change })
}

function settle(q: CheckedQuestion, c: Remedy) {
  if (c.action === 'missing') emit('choose', q.name, { missing: { [c.code]: c.reason } })
  else if (c.action === 'same') emit('choose', q.name, { sameAs: { [c.code]: c.other } })
  else if (c.action === 'answer') emit('choose', q.name, { add: [c.code] })
  else if (c.action === 'counts') set({ shape: 'counts', countColumn: q.name })
  else if (c.action === 'kind') emit('choose', q.name, { kind: c.kind as CheckedQuestion['kind'] })
}

/** What usually means a missing answer in several columns is settled for all of them at once. */
const missingInMany = computed(() => (props.fresh ? preview.value?.check?.found.filter((f) => f.kind === 'missing') : undefined) ?? [])
function countMissing(f: Found) {
  const names = f.questions.map((at) => preview.value?.check?.questions[at]?.name ?? '')
  emit('chooseMany', new Map(names.map((name, i) => [name, { missing: f.missing[i] ?? {} }])))
}

/** A later file is read as the study reads it; and a cell of several answers becomes a
 * question of its own only in a kept study. */
const curable = (c: Remedy) => props.fresh && c.action !== 'parts'
</script>

<template>
  <div class="beside tall">
    <div class="sheet">
      <p class="acts found">
        <strong class="serif">{{ arrival.name }}</strong>
        <span
          v-if="preview?.check"
          class="soft"
          data-test="found"
        >{{ found(preview.check.n, preview.check.questions.length) }}<template
          v-if="preview.check.n !== preview.rows"
        >, {{ t('intake.in_rows', { n: count(preview.rows) }, preview.rows) }}</template></span>
        <span
          v-else-if="preview"
          class="soft"
          data-test="found"
        >{{ found(preview.rows, preview.names.length) }}</span>
        <button
          type="button"
          class="act"
          @click="$emit('another')"
        >
          {{ t('intake.another') }}
        </button>
      </p>
      <SettingsSentence
        v-if="!unreadable && !lacksFile"
        :arrival="arrival"
        @settings="$emit('settings', $event)"
      />
      <section
        v-for="o in preview?.offers ?? []"
        :key="o.shape"
        class="offer"
        data-test="offer"
      >
        <p>{{ o.text }} <button
          type="button"
          class="act"
          @click="set({ shape: o.shape, countColumn: o.countColumn, sharesColumn: o.sharesColumn })"
        >
          {{ t(`intake.offer.${o.shape}`) }}
        </button></p>
      </section>
      <ArrivalProblems
        v-if="problems.length"
        :problems="problems"
        :ragged="preview?.ragged ?? 0"
        :lacks-file="lacksFile"
        @set="set"
        @add-file="$emit('addFile', $event)"
      />
      <slot />
      <section v-if="preview?.check" class="block">
        <h2>{{ t('check.arrived') }}</h2>
        <p v-for="f in missingInMany" :key="f.text" class="offer" data-test="missing-in-many">
          {{ f.text }} <button type="button" class="act" @click="countMissing(f)">{{ t('check.settle.missing') }}</button>
        </p>
        <CheckTable
          :check="preview.check"
          :curable="curable"
          :skippable="fresh"
          :fixed="!fresh"
          @kind="(q, kind) => $emit('choose', q.name, { kind })"
          @remedy="settle"
          @skip="(q) => $emit('choose', q.name, { skip: true })"
        />
        <p v-if="skipped.length" class="soft">{{ t('check.skipped') }} <button
          v-for="name in skipped"
          :key="name"
          type="button"
          class="act back"
          @click="$emit('choose', name, { skip: false })"
        >{{ t('check.take_back', { name }) }}</button></p>
      </section>
      <section v-if="preview && preview.first.length" class="block">
        <h2>{{ t('intake.first') }}</h2>
        <FirstRows
          :names="arrival.settings.shape === 'rows' || arrival.settings.shape === 'counts'
            ? preview.names : preview.first[0]!.map((_, k) => `${k + 1}`)"
          :rows="preview.first"
        />
      </section>
    </div>
    <aside class="margin notes">
      <p>{{ t('intake.note_check') }}</p>
      <p v-if="fresh">{{ t('intake.note_overrule') }}</p>
      <p>{{ t('intake.note_file') }}</p>
      <p
        v-for="f in (preview?.check?.found ?? []).filter((x) => x.kind !== 'missing')"
        :key="f.text"
      >
        {{ f.text }} {{ t(`check.found_later.${f.kind}`) }}
      </p>
      <p
        v-for="l in preview?.left ?? []"
        :key="l"
      >
        {{ t('intake.left_out', { text: l || t('intake.nameless') }) }}
      </p>
      <p v-if="arrival.settings.padShort">
        {{ t('intake.padded', { n: preview?.padded ?? 0 }) }} <button
          type="button"
          class="act"
          @click="set({ padShort: false })"
        >
          {{ t('intake.undo_setting') }}
        </button>
      </p>
      <p v-if="arrival.settings.fixNames">
        {{ t('intake.fixed') }} <button
          type="button"
          class="act"
          @click="set({ fixNames: false })"
        >
          {{ t('intake.undo_setting') }}
        </button>
      </p>
    </aside>
  </div>
</template>

<style scoped>
.tall {
  min-height: calc(100vh - 53px);
}
.found strong {
  font-size: 18.5px;
  font-weight: 600;
  overflow-wrap: anywhere;
}
h2 {
  font-size: 16px;
  font-weight: 600;
  margin-bottom: 6px;
}
.offer {
  border-left: 3px double var(--ink);
  padding: 2px 0 2px 14px;
  margin: 10px 0;
  max-width: 780px;
}
.block {
  margin-top: 26px;
}
.notes {
  font:
    italic 14.5px/1.42 'Source Serif 4 Variable',
    serif;
  color: var(--soft);
  padding-top: 24px !important;
  overflow-wrap: anywhere;
}
.notes p {
  margin-bottom: 14px;
}
.notes .act {
  font:
    600 14px 'Source Sans 3 Variable',
    sans-serif;
}
.back {
  margin-left: 12px;
}
</style>
