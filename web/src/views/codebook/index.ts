export { default } from './CodebookPage.vue'
