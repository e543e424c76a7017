export { default } from './GuidePage.vue'
