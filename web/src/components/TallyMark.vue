<template>
  <svg class="mark" viewBox="0 0 44 30" width="44" height="30" aria-hidden="true">
    <path d="M8 5v20M17 5v20M26 5v20M35 5v20" stroke="currentColor" stroke-width="3" stroke-linecap="round" />
    <path d="M3 22L41 8" class="across" stroke-width="3.4" stroke-linecap="round" />
  </svg>
</template>

<style scoped>
.across { stroke: var(--teal); }
</style>
