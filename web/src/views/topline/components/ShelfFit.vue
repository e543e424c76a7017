<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import { useI18n } from 'vue-i18n'

import { api } from '@/api/client'
import ChoiceMenu from '@/components/ChoiceMenu.vue'
import ErrorNote from '@/components/ErrorNote.vue'
import { useAttempt } from '@/composables/useAttempt'
import { useShares } from '@/composables/useShares'

import type { Question, SharesFit, Study } from '@/api/client'

/** Figures from the shelf: which categories of a set go to which answers, as proposed and as
 * changed by hand; several go to one answer added up. */
const props = defineProps<{ question: Question; study: Study; countsOnly: boolean }>()
const emit = defineEmits<{ take: [fit: SharesFit]; cancel: [] }>()
const { t } = useI18n()
const { sets, error: listError } = useShares()
const { error, attempt } = useAttempt()
const fit = shallowRef<SharesFit | null>(null)
const chosen = ref(0)
const offered = computed(() => sets.value.filter((s) => !props.countsOnly || (s.scale === 'counts' && s.kind !== 'register'))
  .map((s) => ({ value: s.id, title: s.title })))

/** What is chosen shows at once; the figures follow, the last ones asked for. */
const from = ref<number[][]>([])
let asked = 0
async function load(by?: number[][]) {
  const mine = ++asked
  const found = await attempt(() => api.fitShares(chosen.value, props.study.id, props.question.id, by))
  if (!found || mine !== asked) return
  fit.value = found.value
  from.value = found.value.answers.map((a) => a.from)
}
function choose(id: number) {
  chosen.value = id
  void load()
}
const categories = computed(() => (fit.value?.set.answers ?? []).map((a, value) => ({ value, title: `${a.label} (${a.figure})` })))
/** A category goes to one answer: where it is chosen, it leaves the others. */
function give(at: number, to: number[]) {
  from.value = from.value.map((list, i) => (i === at ? to : list.filter((k) => !to.includes(k))))
  void load(from.value)
}
const left = computed(() => (fit.value?.left ?? []).map((k) => `“${fit.value!.set.answers[k]!.label}”`).join(', '))
const lacking = computed(() => (fit.value?.answers ?? []).filter((a) => a.figure === '').map((a) => `“${a.label}”`).join(', '))
const close = computed(() => (fit.value?.answers ?? []).filter((a) => a.how === 'close').map((a) => `“${a.label}”`).join(', '))
</script>

<template>
  <div class="shelf" data-test="shelf">
    <ErrorNote v-if="error ?? listError" :error="(error ?? listError)!" />
    <p v-if="!offered.length" class="soft">{{ t('shares.none_here') }} <RouterLink to="/shares">{{ t('places.to_shares') }}</RouterLink></p>
    <p v-else>{{ t('shares.take_from') }} <ChoiceMenu
      :model-value="chosen"
      :items="offered"
      :label="t('shares.take_from')"
      :placeholder="t('shares.which')"
      test="shelf-set"
      @update:model-value="choose"
    /></p>
    <template v-if="fit">
      <table class="figures">
        <thead><tr><th
          scope="col"
          class="left"
        >{{ t('topline.answer') }}</th><th
          scope="col"
          class="left"
        >{{ t('shares.category') }}</th><th scope="col">{{ t('shares.figure') }}</th></tr></thead>
        <tbody>
          <tr v-for="(a, i) in fit.answers" :key="a.code">
            <td class="left">{{ a.label }}</td>
            <td class="left">
              <v-select
                :model-value="from[i] ?? []"
                :items="categories"
                multiple
                density="compact"
                hide-details
                :label="t('shares.category_of', { answer: a.label })"
                :data-test="`fit-${a.code}`"
                @update:model-value="give(i, $event)"
              />
            </td>
            <td>{{ a.figure || '–' }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="close" class="problem" role="status" data-test="fit-close">{{ t('shares.close', { list: close }) }}</p>
      <p v-if="left" class="problem" role="status" data-test="fit-left">{{ t('shares.left', { list: left }) }}</p>
      <p v-if="lacking" class="soft" role="status" data-test="fit-lacking">{{ t('shares.lacking', { list: lacking }) }}</p>
      <p class="acts">
        <v-btn variant="flat" color="primary" data-test="fit-take" @click="emit('take', fit)">{{ t('shares.take') }}</v-btn>
        <button type="button" class="act" @click="$emit('cancel')">{{ t('app.cancel') }}</button>
      </p>
    </template>
  </div>
</template>

<style scoped>
.shelf { margin: 8px 0; max-width: 760px; }
td.left:nth-child(2) { min-width: 300px; }
.problem { border-left: 3px double var(--ink); padding-left: 10px; margin: 4px 0; }
.acts { align-items: center; margin-top: 8px; }
</style>
