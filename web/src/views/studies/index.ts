export { default } from './StudiesPage.vue'
