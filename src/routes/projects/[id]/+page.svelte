<script lang="ts">
  import EditScreen from "$lib/ui/edit/EditScreen.svelte";
</script>

<EditScreen />
