<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { I18nT, useI18n } from 'vue-i18n'

import { api } from '@/api/client'
import CellField from '@/components/CellField.vue'
import ErrorNote from '@/components/ErrorNote.vue'
import { useAttempt } from '@/composables/useAttempt'

import type { Anonymity, CodebookQuestion } from '@/api/client'

/** A file of the respondents' answers for others: what leaves, and how well they are hid in it. */
const props = defineProps<{ studyId: number; questions: CodebookQuestion[] }>()
const { t } = useI18n()
const chosen = ref<number[]>([])
const keys = ref<number[]>([])
const least = ref(5)
const bands = ref(5)
const found = shallowRef<Anonymity | null>(null)
const { error, attempt } = useAttempt()

const leaves = (q: CodebookQuestion) => !['text', 'identifier', 'summarised'].includes(q.kind)
const servesAsKey = (q: CodebookQuestion) => leaves(q) && !['weight', 'count'].includes(q.kind)
const offered = computed(() => props.questions.filter(leaves))
const stays = computed(() => props.questions.filter((q) => !leaves(q)).map((q) => q.name))
const asked = computed(() => ({
  questions: offered.value.flatMap((q) => (chosen.value.includes(q.id) ? [q.id] : [])),
  keys: offered.value.flatMap((q) => (chosen.value.includes(q.id) && keys.value.includes(q.id) ? [q.id] : [])),
  least: least.value,
  bands: bands.value,
}))
const keyNames = computed(() => offered.value.flatMap((q) => (asked.value.keys.includes(q.id) ? [q.name] : [])))

function pick(id: number, on: boolean) {
  chosen.value = on ? [...chosen.value, id] : chosen.value.filter((other) => other !== id)
  if (!on) keys.value = keys.value.filter((other) => other !== id)
}
function key(id: number, on: boolean) {
  keys.value = on ? [...keys.value, id] : keys.value.filter((other) => other !== id)
}
/** A whole number as it is typed; which ones may be is the server's to say. */
function whole(text: string, field: HTMLInputElement, now: number) {
  if (/^-?\d{1,9}$/.test(text.trim())) return Number(text)
  field.value = String(now)
  return now
}
let latest: AbortController | undefined
watch(asked, async (now) => {
  latest?.abort()
  const mine = (latest = new AbortController())
  if (now.questions.length === 0) return void (found.value = null)
  const got = await attempt(() => api.microdata(props.studyId, now, mine.signal))
  if (latest === mine) found.value = got?.value ?? null
})
</script>

<template>
  <div class="others" data-test="for-others">
    <p class="soft">{{ t('for_others.hint') }}</p>
    <p v-if="stays.length" class="soft small">{{ t('for_others.stays', { list: stays.join(', '), n: stays.length }) }}</p>
    <p class="acts">
      <button type="button" class="act" @click="chosen = offered.map((q) => q.id)">{{ t('for_others.all') }}</button>
      <button type="button" class="act" @click="chosen = []; keys = []">{{ t('for_others.none') }}</button>
    </p>
    <div class="list" tabindex="0" role="region" :aria-label="t('for_others.act')">
      <table>
        <thead>
          <tr>
            <th scope="col">{{ t('for_others.question') }}</th>
            <th scope="col">{{ t('for_others.leaves') }}</th>
            <th scope="col">{{ t('for_others.key') }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="q in offered" :key="q.id">
            <th scope="row"><b>{{ q.name }}</b> {{ q.wording === q.name ? '' : q.wording }}</th>
            <td><v-checkbox-btn
              inline
              :model-value="chosen.includes(q.id)"
              :aria-label="t('for_others.leaves_of', { name: q.name })"
              :data-test="`leaves-${q.name}`"
              @update:model-value="(on) => pick(q.id, on === true)"
            /></td>
            <td><v-checkbox-btn
              v-if="servesAsKey(q)"
              inline
              :model-value="keys.includes(q.id)"
              :disabled="!chosen.includes(q.id)"
              :aria-label="t('for_others.key_of', { name: q.name })"
              :data-test="`key-${q.name}`"
              @update:model-value="(on) => key(q.id, on === true)"
            /></td>
          </tr>
        </tbody>
      </table>
    </div>
    <p class="sentence">
      <I18nT keypath="for_others.sentence" scope="global">
        <template #least><CellField
          class="number"
          inputmode="numeric"
          :value="least"
          :label="t('for_others.labels.least')"
          data-test="least"
          @change="(text, field) => (least = whole(text, field, least))"
        /></template>
        <template #bands><CellField
          class="number"
          inputmode="numeric"
          :value="bands"
          :label="t('for_others.labels.bands')"
          data-test="bands"
          @change="(text, field) => (bands = whole(text, field, bands))"
        /></template>
      </I18nT>
    </p>
    <ErrorNote v-if="error" :error="error" />
    <div v-if="found" data-test="anonymity" aria-live="polite">
      <p v-if="asked.keys.length === 0">{{ t('for_others.no_keys') }}</p>
      <template v-else>
        <p>{{ t('for_others.combinations', { n: found.combinations, keys: keyNames.join(' × ') }) }}
          {{ found.few === 0 ? t('for_others.none_few', { smallest: found.smallest }) : t('for_others.few', { n: found.few, least }) }}
          {{ found.few === 0 ? '' : t('for_others.alone', { n: found.alone }) }}</p>
        <p v-if="found.withheld > 0">{{ t('for_others.withheld', { n: found.withheld }) }}</p>
        <table v-if="found.rare.length" class="rare">
          <caption>{{ t('for_others.rare') }}</caption>
          <thead>
            <tr>
              <th v-for="name in keyNames" :key="name" scope="col">{{ name }}</th>
              <th scope="col" class="n">{{ t('for_others.respondents') }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(one, i) in found.rare" :key="i">
              <td v-for="(a, k) in one.answers" :key="k">{{ a }}</td>
              <td class="n">{{ one.count }}</td>
            </tr>
          </tbody>
        </table>
      </template>
      <template v-if="found.rareAnswers.length">
        <p>{{ t('for_others.rare_answers', { least }) }}</p>
        <ul>
          <li v-for="one in found.rareAnswers" :key="`${one.question} ${one.answer}`">{{ one.question }}: {{ one.answer }} ({{ one.count }})</li>
        </ul>
      </template>
      <p><v-btn
        variant="flat"
        color="primary"
        :href="api.microdataFile(studyId, asked)"
        download
        data-test="save-for-others"
      >{{ t('for_others.save') }}</v-btn></p>
    </div>
  </div>
</template>

<style scoped>
.others { display: grid; gap: 10px; max-width: 900px; }
.list { max-height: 320px; overflow: auto; border: 1px solid var(--hair); }
table { border-collapse: collapse; width: 100%; }
th, td { text-align: left; padding: 3px 10px; font-weight: 400; vertical-align: baseline; overflow-wrap: anywhere; }
thead th { font-weight: 600; border-bottom: 1px solid var(--rule); }
.list thead th { position: sticky; top: 0; background: var(--paper); white-space: nowrap; }
.list td { text-align: center; width: 90px; }
.list :is(td, tbody th) { vertical-align: middle; padding-block: 0; }
.rare { width: auto; }
.rare caption { text-align: left; font-weight: 600; padding: 4px 10px; }
.n { text-align: right; }
ul { padding-left: 18px; }
.sentence { font: 500 16.5px/2 'Source Serif 4 Variable', serif; }
</style>
