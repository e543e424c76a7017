export { default } from './SharesPage.vue'
