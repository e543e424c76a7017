<script setup lang="ts">
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'

import { published } from '@/app/format'
import ChoiceMenu from '@/components/ChoiceMenu.vue'
import ErrorNote from '@/components/ErrorNote.vue'
import { useAttempt } from '@/composables/useAttempt'

import type { ShareSetBody, StatTable } from '@/api/client'

/** Takes the figures along one dimension of a table of open statistics, the others fixed. */
const props = defineProps<{ load: (dim: string, fix: Record<string, string>) => Promise<StatTable> }>()
const emit = defineEmits<{ take: [start: Partial<ShareSetBody>]; cancel: [] }>()
const { t } = useI18n()
const { error, attempt } = useAttempt()
const table = shallowRef<StatTable | null>(null)
const dim = ref('')
const fix = ref<Record<string, string>>({})
/** The figures shown are those of the choices made. */
const current = ref(false)
let asked = 0
async function again() {
  const mine = ++asked
  current.value = false
  const found = await attempt(() => props.load(dim.value, fix.value))
  if (mine !== asked) return
  current.value = found !== null
  if (found) table.value = found.value
  // those shown were of another choice
  else if (table.value) table.value = { ...table.value, answers: [], totals: [], lacking: [], flagged: [] }
}
onMounted(again)
watch([dim, fix], again, { deep: true })

const dims = computed(() => (table.value?.dimensions ?? []).map((d) => ({ value: d.id, title: d.label })))
const others = computed(() => (table.value?.dimensions ?? []).filter((d) => d.id !== dim.value && d.categories.length > 1))
const chosen = computed(() => others.value.map((d) => d.categories.find((c) => c.code === fix.value[d.id])?.label ?? ''))

/** What the figures are, counts or percents, a table does not say: that is asked. */
function take() {
  if (!table.value) return
  const { title, publisher, updated, note, answers } = table.value
  const of = chosen.value.join(', ')
  emit('take', {
    title: of ? `${title}: ${of}`.slice(0, 160) : title,
    publisher,
    date: published(updated),
    note,
    answers,
  })
}
</script>

<template>
  <ErrorNote v-if="error" :error="error" :action="t('app.retry')" @act="again" />
  <div v-if="table" class="take" data-test="table-take">
    <h3>{{ table.title }}</h3>
    <p class="soft small">{{ [table.publisher, published(table.updated), table.note].filter(Boolean).join(' · ') }}</p>
    <p class="sentence">
      {{ t('shares.along') }} <ChoiceMenu
        v-model="dim"
        :items="dims"
        :label="t('shares.along')"
        :placeholder="t('shares.which')"
        test="along"
      /><template v-if="dim"><template v-for="d in others" :key="d.id">, {{ t('shares.with', { dimension: d.label }) }}
        <ChoiceMenu
          :model-value="fix[d.id] ?? ''"
          :items="d.categories.map((c) => ({ value: c.code, title: c.label }))"
          :label="d.label"
          :placeholder="t('shares.which')"
          :test="`fix-${d.id}`"
          @update:model-value="fix = { ...fix, [d.id]: $event }"
        /></template></template>.
    </p>
    <table v-if="table.answers.length" class="figures">
      <thead><tr><th scope="col" class="left">{{ t('topline.answer') }}</th><th scope="col">{{ t('shares.figure') }}</th></tr></thead>
      <tbody><tr v-for="a in table.answers" :key="a.label"><td class="left">{{ a.label }}</td><td>{{ a.figure }}</td></tr></tbody>
    </table>
    <p v-for="a in table.totals" :key="a.label" class="soft">{{ t('shares.total_left_out', { total: a.label }) }}</p>
    <p v-for="a in table.lacking" :key="a.label" class="soft">
      {{ a.status ? t('shares.lacking_status', { ...a }) : t('shares.lacking_one', { ...a }) }}
    </p>
    <p v-for="a in table.flagged" :key="a.label" class="soft">{{ t('shares.flagged', { ...a }) }}</p>
    <p class="acts">
      <v-btn
        variant="flat"
        color="primary"
        :disabled="!current || table.answers.length < 2"
        data-test="take"
        @click="take"
      >{{ t('shares.take') }}</v-btn>
      <button type="button" class="act" @click="$emit('cancel')">{{ t('app.cancel') }}</button>
    </p>
  </div>
</template>

<style scoped>
.take { border-left: 3px solid var(--teal); padding: 2px 0 4px 20px; margin: 6px 0 18px; }
.sentence { font: 500 17.5px/2.05 'Source Serif 4 Variable', serif; max-width: 820px; }
h3 { font: 600 18px 'Source Serif 4 Variable', serif; }
.figures { max-width: 480px; }
.acts { align-items: center; margin-top: 10px; }
</style>
