<script setup lang="ts">
import { ref } from 'vue'

import { lazily } from '@/app/later'

import type { MenuEntry } from './menu'

/** A button that opens a menu. The menu is fetched when it is opened first. */
defineOptions({ inheritAttrs: false })
defineProps<{ label: string; entries: MenuEntry[]; choice?: boolean }>()
const Menu = lazily(() => import('./MenuList.vue'))
const button = ref<HTMLElement>()
const wanted = ref(false)
const open = ref(false)
function toggle() {
  wanted.value = true
  open.value = !open.value
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
      @click="toggle"
      @keydown.down.prevent="open || toggle()"
    ><slot /> <span aria-hidden="true">▾</span></button>
    <Menu
      v-if="wanted && button"
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
