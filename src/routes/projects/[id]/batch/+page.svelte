<script lang="ts">
  import BatchScreen from "$lib/ui/batch/BatchScreen.svelte";
</script>

<BatchScreen />
