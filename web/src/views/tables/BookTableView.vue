<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref } from 'vue'
import { useI18n } from 'vue-i18n'

import DocumentTable from '@/components/document/DocumentTable.vue'

import NetsEditor from './NetsEditor.vue'

import type { BookQuestion, BookTable, Net } from '@/api/client'

/** A table of a book, drawn when it has come near the screen. */
const props = defineProps<{
  number: number
  caption: string
  table: BookTable | undefined
  question: BookQuestion | undefined
  may: boolean
}>()
const emit = defineEmits<{ near: []; nets: [nets: Net[], ofList: boolean] }>()
const { t } = useI18n()
const element = ref<HTMLElement | null>(null)
const said = ref('')
const netting = ref(false)
let watcher: IntersectionObserver | null = null
onMounted(() => {
  watcher = new IntersectionObserver((seen) => seen.some((s) => s.isIntersecting) && emit('near'), { rootMargin: '600px' })
  if (element.value) watcher.observe(element.value)
})
onBeforeUnmount(() => watcher?.disconnect())
function keep(nets: Net[], ofList: boolean) {
  netting.value = false
  emit('nets', nets, ofList)
}
const nets = () => props.may && props.question && props.question.kind !== 'continuous'
</script>

<template>
  <section ref="element" class="made" :data-test="`table-${number}`">
    <h3>{{ t('tables.number', { n: number }) }} <span>{{ caption }}</span>
      <button
        v-if="table && nets()"
        type="button"
        class="act"
        data-test="nets"
        :aria-expanded="netting"
        @click="netting = !netting"
      >{{ t('tables.nets.act') }}</button></h3>
    <NetsEditor v-if="netting && question" :question="question" @keep="keep" @leave="netting = false" />
    <p v-if="table?.failed" class="soft">{{ table.failed }}</p>
    <template v-else-if="table?.table">
      <p v-if="said" class="said" role="status" data-test="said">{{ said }}</p>
      <div class="wide" tabindex="0" role="group" :aria-label="caption"><DocumentTable v-model:said="said" :table="table.table" /></div>
      <p v-for="n in table.notes" :key="n" class="soft small note">{{ n }}</p>
    </template>
    <p v-else class="soft waiting">{{ t('app.loading') }}</p>
  </section>
</template>

<style scoped>
.made { margin: 26px 0 34px; min-height: 90px; scroll-margin-top: 70px; }
h3 {
  font: 600 18px/1.35 'Source Serif 4 Variable', serif; margin-bottom: 6px; display: flex; flex-wrap: wrap; gap: 0 10px;
  align-items: baseline;
}
h3 > span { flex: 0 1 auto; }
h3 .act { margin-left: auto; font-size: 14px; }
.wide { overflow-x: auto; }
.wide :deep(table) { width: auto; min-width: 380px; }
.wide :deep(:is(tbody th, tfoot th, thead tr:last-child th:first-child, .over td:first-child)) {
  position: sticky; left: 0; background: var(--paper); z-index: 1;
}
.wide :deep(td), .wide :deep(thead tr:last-child th) { padding-left: 4px; padding-right: 19px; min-width: 58px; }
.wide :deep(thead tr:last-child th:first-child) { padding-left: 0; }
.wide :deep(thead tr:last-child th.long) { min-width: 132px; }
.wide :deep(thead .name) { display: -webkit-box; -webkit-box-orient: vertical; -webkit-line-clamp: 7; overflow: hidden; }
.wide :deep(.figure) { position: relative; }
.wide :deep(.above) { position: absolute; left: 100%; bottom: 0; margin-left: 2px; letter-spacing: 0; font-size: 12px; }
.wide :deep(.over th) { border-left: 14px solid var(--paper); padding: 2px 0; }
.wide :deep(tbody th) { max-width: 300px; min-width: 150px; }
.said { background: var(--tealwash); padding: 4px 10px; margin-bottom: 6px; max-width: 900px; }
.note { max-width: 900px; margin: 2px 0 0; }
.waiting { padding: 22px 0; }
</style>
