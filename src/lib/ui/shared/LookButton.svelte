<script lang="ts">
  import Asleep from "carbon-icons-svelte/lib/Asleep.svelte";
  import Light from "carbon-icons-svelte/lib/Light.svelte";
  import { look } from "./look.svelte";

  const label = $derived(look.dark ? "Use light paper" : "Use dark paper");
</script>

<button class="plain bare" aria-label={label} title={label} onclick={() => look.toggle()}>
  {#if look.dark}<Light size={16} />{:else}<Asleep size={16} />{/if}
</button>
