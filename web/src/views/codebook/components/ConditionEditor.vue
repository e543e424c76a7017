<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import ChoiceMenu from '@/components/ChoiceMenu.vue'

import { firstCondition } from '../conditions'
import ConditionLeaf from './ConditionLeaf.vue'

import type { CodebookQuestion, Condition } from '@/api/client'

/** Conditions joined by "and" or "or", and groups of them within. */
const condition = defineModel<Condition>({ required: true })
const props = defineProps<{ questions: CodebookQuestion[]; depth?: number }>()
const { t } = useI18n()
const deepest = 3
const joins = computed(() => (['and', 'or'] as const).map((value) => ({ value: value as Condition['op'], title: t(`condition.${value}`) })))

const group = computed<Condition>(() =>
  condition.value.op === 'and' || condition.value.op === 'or' ? condition.value : { op: 'and', of: [condition.value] },
)
const parts = computed(() => group.value.of ?? [])
const isGroup = (c: Condition) => c.op === 'and' || c.op === 'or'
const first = computed(() => firstCondition(props.questions))

const put = (of: Condition[]) => (condition.value = { op: group.value.op, of })
const set = (i: number, c: Condition) => put(parts.value.map((p, k) => (k === i ? c : p)))
const drop = (i: number) => put(parts.value.filter((_, k) => k !== i))
const add = (c: Condition) => put([...parts.value, c])
</script>

<template>
  <div class="group">
    <p v-if="parts.length > 1 || depth" class="soft">
      <ChoiceMenu
        :model-value="group.op"
        :items="joins"
        :label="t('condition.join')"
        small
        @update:model-value="condition = { op: $event, of: parts }"
      />
    </p>
    <div v-for="(c, i) in parts" :key="i" class="part">
      <ConditionEditor
        v-if="isGroup(c)"
        :model-value="c"
        :questions="questions"
        :depth="(depth ?? 0) + 1"
        @update:model-value="set(i, $event)"
      />
      <ConditionLeaf
        v-else
        :model-value="c"
        :questions="questions"
        @update:model-value="set(i, $event)"
      />
      <button
        type="button"
        class="act drop"
        :aria-label="t('condition.drop', { n: i + 1 })"
        @click="drop(i)"
      >×</button>
    </div>
    <p class="acts small">
      <button
        type="button"
        class="act"
        data-test="add-condition"
        @click="add(first)"
      >{{ t('condition.add') }}</button>
      <button
        v-if="(depth ?? 0) < deepest"
        type="button"
        class="act"
        @click="add({ op: group.op === 'and' ? 'or' : 'and', of: [first] })"
      >{{ t('condition.add_group') }}</button>
    </p>
  </div>
</template>

<style scoped>
.group { border-left: 2px solid var(--rule); padding-left: 12px; margin: 4px 0; }
.part > :first-child { flex: 0 1 auto; }
.part { display: flex; justify-content: flex-start; gap: 10px; align-items: baseline; margin-bottom: 4px; }
.drop { padding: 0 4px; }
</style>
