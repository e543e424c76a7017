export { default } from './TablesPage.vue'
