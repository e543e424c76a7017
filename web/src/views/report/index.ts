export { default } from './ReportPage.vue'
