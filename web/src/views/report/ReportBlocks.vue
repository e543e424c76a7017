<script setup lang="ts">
import RunText from './RunText.vue'

import type { ReportBlock } from '@/api/client'

/** A piece of the report as it reads. */
defineProps<{ blocks: readonly ReportBlock[] }>()
const picture = (svg: string) => `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg)}`
</script>

<template>
  <template v-for="(b, i) in blocks" :key="i">
    <component
      :is="`h${Math.min(4, (b.level ?? 1) + 1)}`"
      v-if="b.kind === 'heading'"
      :id="b.anchor"
      class="heading"
    ><RunText :runs="b.runs ?? []" /></component>
    <p v-else-if="b.kind === 'paragraph'" class="para"><RunText :runs="b.runs ?? []" /></p>
    <blockquote v-else-if="b.kind === 'quote'"><RunText :runs="b.runs ?? []" /></blockquote>
    <component :is="b.numbered ? 'ol' : 'ul'" v-else-if="b.kind === 'list'" class="list">
      <li v-for="(item, k) in b.items ?? []" :key="k"><RunText :runs="item" /></li>
    </component>
    <div v-else-if="b.table" :id="b.anchor" class="wide">
      <table class="figures">
        <caption v-if="b.table.label">{{ b.table.label }}. {{ b.table.title }}</caption>
        <thead><tr><th v-for="(h, k) in b.table.head" :key="k" scope="col" :class="{ left: b.table.words[k] }">{{ h }}</th></tr></thead>
        <tbody>
          <tr v-for="(row, r) in b.table.rows ?? []" :key="r" :class="{ foot: r >= (b.table.rows?.length ?? 0) - (b.table.foot ?? 0) }">
            <component
              :is="k === 0 ? 'th' : 'td'"
              v-for="(c, k) in row"
              :key="k"
              :scope="k === 0 ? 'row' : undefined"
              :class="{ left: b.table.words[k] }"
            >{{ c.shown ?? c.text }}</component>
          </tr>
        </tbody>
      </table>
      <p v-for="n in b.table.notes ?? []" :key="n" class="soft small">{{ n }}</p>
    </div>
    <figure v-else-if="b.picture" :id="b.anchor">
      <img :src="picture(b.picture.svg)" :alt="b.picture.alt" :width="b.picture.width" />
      <figcaption>{{ b.picture.label }}. {{ b.picture.caption }}</figcaption>
      <p v-for="n in b.picture.notes ?? []" :key="n" class="soft small">{{ n }}</p>
    </figure>
  </template>
</template>

<style scoped>
.heading { margin: 22px 0 6px; }
h2.heading { font-size: 22px; }
h3.heading { font-size: 18.5px; }
h4.heading { font-size: 16px; }
.para { margin: 0 0 9px; font-size: 16px; line-height: 1.55; max-width: 720px; }
blockquote { margin: 0 0 9px 22px; font-style: italic; max-width: 680px; }
.list { margin: 0 0 10px; padding-left: 20px; font-size: 16px; line-height: 1.5; max-width: 720px; }
caption { text-align: left; font-weight: 600; padding: 10px 0 6px; }
figure { margin: 14px 0; }
figure img { max-width: 100%; height: auto; }
figcaption { font-weight: 600; margin-top: 4px; }
.wide { margin: 0 0 12px; overflow-x: auto; }
.foot > * { font-weight: 600; }
/* On paper a table is as wide as what it holds, between the rules of the documents. */
@media print {
  .wide, figure { break-inside: avoid; }
  .wide { overflow: visible; }
  .wide table { width: auto; min-width: 60%; font-size: 10pt; border-top: 1pt solid; border-bottom: 1pt solid; }
  .wide :is(th, td):not(:first-child) { padding-left: 16pt; }
  .wide :is(th, td):first-child { min-width: 8em; }
  .heading { break-after: avoid; }
  .para, .list { max-width: none; font-size: 11pt; }
}
</style>
