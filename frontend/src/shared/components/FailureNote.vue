<script setup lang="ts">
import Button from 'primevue/button'
import Message from 'primevue/message'

/** Why something could not be shown or done, with a way on where there is one. */
defineProps<{ error: string; again?: () => unknown }>()
</script>

<template>
  <Message v-if="error" severity="error" :closable="false">
    {{ error }}
    <slot />
    <Button v-if="again" label="Try again" size="small" variant="outlined" @click="again" />
  </Message>
</template>
