export { default } from './QuickPage.vue'
