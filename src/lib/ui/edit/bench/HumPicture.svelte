<!-- Lines that are cut, or the spectrum before and after where they are subtracted. -->
<script lang="ts">
  import type { PanelProps } from "./pictures";
  import ResponseCurve from "./ResponseCurve.svelte";
  import SpectrumPicture from "./SpectrumPicture.svelte";

  let props: PanelProps = $props();
</script>

{#if props.params.method === "notches"}<ResponseCurve {...props} />{/if}
<SpectrumPicture {...props} />
