export { default } from './AccountPage.vue'
