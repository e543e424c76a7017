import { StorageSerializers, useStorage } from '@vueuse/core'

/** What this browser keeps under a name, null for nothing: for good, or as long as its tab is open. */
export const kept = <T>(name: string, where: Storage = localStorage) =>
  useStorage<T | null>(name, null, where, { serializer: StorageSerializers.object, writeDefaults: false, listenToStorageChanges: false, flush: 'sync' })
