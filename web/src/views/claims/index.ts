export { default } from './ClaimsPage.vue'
