<script lang="ts">
  import PresetsScreen from "$lib/ui/presets/PresetsScreen.svelte";
</script>

<PresetsScreen />
