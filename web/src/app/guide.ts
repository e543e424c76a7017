import { ref } from 'vue'

/** Whether the guide stands beside the page. */
export const guideShown = ref(false)
