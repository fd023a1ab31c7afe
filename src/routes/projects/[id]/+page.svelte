<script lang="ts">
  import type { PageProps } from "./$types";
  import EditScreen from "$lib/ui/edit/EditScreen.svelte";

  let { data }: PageProps = $props();
</script>

<svelte:head><title>{data.state.document.name} · Wring</title></svelte:head>

{#key data.state.id}<EditScreen initial={data.state} />{/key}
