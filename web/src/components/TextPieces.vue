<script setup lang="ts">
import MathLine from './MathLine.vue'

import type { TextPiece } from '@/api/client'

/** A line of an explanation, piece by piece. */
defineProps<{ pieces: TextPiece[] }>()
</script>

<template>
  <template v-for="(piece, k) in pieces" :key="k"><MathLine
    v-if="piece.kind === 'math'"
    :tex="piece.text"
  /><em v-else-if="piece.kind === 'emphasis'">{{ piece.text }}</em><strong v-else-if="piece.kind === 'strong'">{{ piece.text }}</strong><code
    v-else-if="piece.kind === 'code'"
  >{{ piece.text }}</code><template v-else>{{ piece.text }}</template></template>
</template>

<style scoped>
code { font: 0.9em ui-monospace, monospace; }
</style>
