<script lang="ts">
  import DeliverScreen from "$lib/ui/deliver/DeliverScreen.svelte";
</script>

<DeliverScreen />
