<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import MathLine from '@/components/MathLine.vue'
import { useCopied } from '@/composables/useCopied'

import type { Block } from '@/api/client'

/** The working, line by line: as formulas where there are any, and to be copied as text or as TeX. */
const props = defineProps<{ block: Block }>()
const { t } = useI18n()
const text = useCopied()
const tex = useCopied()
const escaped = (line: string) => `\\text{${line.replace(/[\\{}$&#_%^~]/g, (c) => (c === '\\' ? '\\backslash ' : `\\${c}`))}}`
const asTeX = computed(() => props.block.lines.map((line, i) => `${props.block.formulas[i] || escaped(line)} \\\\`).join('\n'))
</script>

<template>
  <div class="working" data-test="working">
    <ol>
      <li v-for="(line, k) in block.lines" :key="k">
        <MathLine v-if="block.formulas[k]" :tex="block.formulas[k]!" />
        <span :class="{ 'in-words': block.formulas[k] }">{{ line }}</span>
      </li>
    </ol>
    <p class="acts small">
      <button
        type="button"
        class="act"
        data-test="working-text"
        @click="text.copy(block.lines.join('\n'))"
      >{{ text.copied.value ? t('topline.copied') : t('claim.copy_text') }}</button>
      <button
        type="button"
        class="act"
        data-test="working-tex"
        @click="tex.copy(asTeX)"
      >{{ tex.copied.value ? t('topline.copied') : t('claim.copy_tex') }}</button>
    </p>
  </div>
</template>

<style scoped>
.working { margin: 12px 0 10px; font-size: 14.5px; }
ol { padding-left: 26px; margin: 0 0 6px; }
li { margin-bottom: 6px; }
.in-words { display: block; color: var(--soft); font-size: 13.5px; }
</style>
