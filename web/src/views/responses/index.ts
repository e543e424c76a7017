export { default } from './ResponsesPage.vue'
