<script setup lang="ts">
import { ref, watch } from 'vue'

import { lazily } from '@/app/later'

import type { Act, MenuEntry } from './menu'

/** A button that opens a menu, of entries or of acts by purpose. The menu is fetched when it is opened first. To press, move and let
 * go over an entry takes it in one movement; where it stands in a sentence the first letter of an
 * entry takes it in one key, elsewhere letters are keys of the page. */
defineOptions({ inheritAttrs: false })
const props = defineProps<{ label: string; entries?: MenuEntry[]; acts?: Act[]; choice?: boolean; letters?: boolean }>()
const Acts = lazily(() => import('./ActList.vue'))
const Menu = lazily(() => import('./MenuList.vue'))
const button = ref<HTMLElement>()
const wanted = ref(false)
const open = defineModel<boolean>('open', { default: false })
watch(open, (now) => (wanted.value ||= now))
const toggle = () => (open.value = !open.value)
/** How far a pointer goes, in pixels, to be on its way to an entry. */
const stirred = 8
/** On a narrow screen acts come as a sheet, which lies over what was pressed. */
const isSheet = () => props.acts !== undefined && window.matchMedia('(max-width: 640px)').matches
/** What opened it was the beginning of this press, whose end is no second one. */
let pressed = false
let from = { x: 0, y: 0 }
function press(e: PointerEvent) {
  pressed = false
  if (e.button !== 0 || e.pointerType !== 'mouse' || open.value || isSheet()) return
  pressed = true
  from = { x: e.clientX, y: e.clientY }
  toggle()
  document.addEventListener('pointerup', release, { once: true })
}
function release(e: PointerEvent) {
  // A menu that only just takes its place may lie under a pointer that has not moved.
  if (Math.hypot(e.clientX - from.x, e.clientY - from.y) < stirred) return
  if (button.value?.contains(e.target as Node)) return
  pressed = false
  ;(e.target as Element).closest<HTMLElement>('.menu-entries .v-list-item, .menu-entries [role=option]')?.click()
}
function click(e: MouseEvent) {
  if (!pressed || e.detail === 0) toggle()
  pressed = false
}
function letter(e: KeyboardEvent) {
  if (!props.letters || open.value || e.key.length !== 1 || e.key === ' ' || e.ctrlKey || e.metaKey || e.altKey) return
  const key = e.key.toLowerCase()
  const those = (props.entries ?? []).filter((entry) => entry.title.toLowerCase().startsWith(key))
  const next = those[(those.findIndex((entry) => entry.chosen) + 1) % those.length]
  if (!next) return
  e.preventDefault()
  e.stopPropagation()
  next.act()
}
</script>

<template>
  <span class="menu-button">
    <button
      ref="button"
      type="button"
      aria-haspopup="menu"
      :aria-expanded="open"
      v-bind="$attrs"
      @pointerdown="press"
      @click="click"
      @keydown="letter"
      @keydown.down.prevent="open || toggle()"
    ><slot /> <span aria-hidden="true">▾</span></button>
    <Acts v-if="wanted && button && acts" v-model="open" :activator="button" :label :entries="acts" />
    <Menu
      v-else-if="wanted && button && entries"
      v-model="open"
      :activator="button"
      :label
      :entries
      :choice
    />
  </span>
</template>

<style scoped>
.menu-button { display: contents; }
</style>
