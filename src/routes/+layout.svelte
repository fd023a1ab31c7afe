<script lang="ts">
  import "carbon-components-svelte/css/all.css";
  import "../styles/tokens.css";
  import "../styles/carbon.css";
  import "../styles/base.css";
  import { onMount, type Snippet } from "svelte";
  import { look } from "$lib/ui/shared/look.svelte";

  let { children }: { children: Snippet } = $props();

  onMount(() => look.restore());
</script>

{@render children()}
