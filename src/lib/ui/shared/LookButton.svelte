<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import Asleep from "carbon-icons-svelte/lib/Asleep.svelte";
  import Light from "carbon-icons-svelte/lib/Light.svelte";
  import { look } from "./look.svelte";
</script>

<Button
  kind="ghost"
  size="small"
  icon={look.dark ? Light : Asleep}
  iconDescription={look.dark ? "Light look" : "Dark look"}
  tooltipAlignment="end"
  on:click={() => look.toggle()}
/>
