<script setup lang="ts">
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'

import type { BookQuestion, Net } from '@/api/client'

/** Answers that are counted together under a name, in every table of the question, or of all questions that share its
 * list of answers. */
const props = defineProps<{ question: BookQuestion }>()
const emit = defineEmits<{ keep: [nets: Net[], ofList: boolean]; leave: [] }>()
const { t } = useI18n()
const ofList = ref(props.question.netsOfList.length > 0)
const of = (list: boolean): Net[] => structuredClone(list ? props.question.netsOfList : props.question.nets).map((n) => ({ ...n }))
const fresh = (): Net => ({ label: '', codes: [] })
const nets = ref<Net[]>([...of(ofList.value)])
if (!nets.value.length) nets.value.push(fresh())
function turn() {
  nets.value = of(ofList.value)
  if (!nets.value.length) nets.value.push(fresh())
}
const named = computed(() => nets.value.filter((n) => n.label.trim() !== '' || n.codes.length > 0))
const ready = computed(() => named.value.every((n) => n.label.trim() !== '' && n.codes.length > 1))
</script>

<template>
  <form class="nets" data-test="nets-form" @submit.prevent="ready && emit('keep', named, ofList)">
    <p class="soft small">{{ t('tables.nets.lead') }}</p>
    <fieldset v-for="(n, i) in nets" :key="i">
      <legend class="visually-hidden">{{ t('tables.nets.one', { n: i + 1 }) }}</legend>
      <v-text-field
        v-model="n.label"
        class="label"
        :label="t('tables.nets.label')"
        maxlength="120"
        :data-test="`net-label-${i}`"
      />
      <div class="answers">
        <v-checkbox
          v-for="a in question.answers"
          :key="a.code"
          v-model="n.codes"
          :value="a.code"
          :label="a.label"
          density="compact"
          hide-details
          :data-test="`net-${i}-${a.code}`"
        />
      </div>
    </fieldset>
    <v-checkbox
      v-if="question.listed"
      v-model="ofList"
      :label="t('tables.nets.of_list')"
      density="compact"
      hide-details
      data-test="nets-of-list"
      @update:model-value="turn"
    />
    <p class="acts">
      <v-btn type="submit" variant="flat" color="primary" :disabled="!ready" data-test="nets-keep">{{ t('codebook.apply') }}</v-btn>
      <button type="button" class="act" data-test="nets-more" @click="nets.push(fresh())">{{ t('tables.nets.more') }}</button>
      <button type="button" class="act" @click="emit('leave')">{{ t('app.cancel') }}</button>
    </p>
  </form>
</template>

<style scoped>
.nets { display: grid; gap: 8px; margin: 4px 0 14px; padding: 8px 0 8px 14px; border-left: 3px solid var(--teal); max-width: 900px; }
fieldset { border: 0; display: flex; flex-wrap: wrap; gap: 0 18px; align-items: center; }
.label { flex: 0 0 230px; }
.answers { display: flex; flex-wrap: wrap; gap: 0 14px; }
.answers > * { flex: 0 0 auto; }
</style>
