export { default } from './IntakePage.vue'
