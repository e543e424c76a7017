export { default } from './CheckPage.vue'
