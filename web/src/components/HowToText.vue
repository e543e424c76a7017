<script setup lang="ts">
import { useI18n } from 'vue-i18n'

import TextPieces from './TextPieces.vue'

import type { HowTo } from '@/api/client'

/** A page of the guide. */
defineProps<{ page: HowTo }>()
const { t } = useI18n()
const picture = (file: string) => `/api/v1/guide/pictures/${file}`
</script>

<template>
  <article class="how-to">
    <h2>{{ page.title }}</h2>
    <template v-for="(b, i) in page.blocks" :key="i">
      <p v-if="b.kind === 'paragraph'"><TextPieces :pieces="b.pieces ?? []" /></p>
      <pre v-else-if="b.kind === 'typed'" tabindex="0">{{ b.text }}</pre>
      <a
        v-else-if="b.kind === 'picture'"
        :href="picture(b.file ?? '')"
        target="_blank"
        rel="noopener"
        :title="t('guide.larger')"
      ><img :src="picture(b.file ?? '')" :alt="b.text" loading="lazy" /></a>
      <div v-else class="scrolled" tabindex="0" role="group" :aria-label="page.title"><table class="figures">
        <thead><tr><th v-for="(cell, k) in b.rows?.[0]" :key="k" scope="col"><TextPieces :pieces="cell" /></th></tr></thead>
        <tbody>
          <tr v-for="(row, k) in b.rows?.slice(1)" :key="k">
            <th scope="row"><TextPieces :pieces="row[0] ?? []" /></th>
            <td v-for="(cell, n) in row.slice(1)" :key="n"><TextPieces :pieces="cell" /></td>
          </tr>
        </tbody>
      </table></div>
    </template>
  </article>
</template>

<style scoped>
h2 { font-size: 21px; font-weight: 600; line-height: 1.25; margin-bottom: 10px; }
p { margin-bottom: 11px; max-width: 640px; overflow-wrap: anywhere; }
pre { font: 13px/1.5 ui-monospace, monospace; border-left: 3px solid var(--teal); padding: 4px 12px; margin: 0 0 12px; overflow-x: auto; }
img { display: block; max-width: 100%; border: 1px solid var(--rule); margin-bottom: 12px; }
.scrolled { overflow-x: auto; margin-bottom: 12px; }
.scrolled :is(td, th) { font-size: 13px; text-align: left; }
</style>
