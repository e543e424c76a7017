export { default } from './ToplinePage.vue'
