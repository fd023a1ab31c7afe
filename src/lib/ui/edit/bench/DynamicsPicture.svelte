<!-- The static curve of an effect of dynamics beside what it does to this sound over time. -->
<script lang="ts">
  import type { PanelProps } from "./pictures";
  import TracePicture from "./TracePicture.svelte";
  import TransferCurve from "./TransferCurve.svelte";

  let props: PanelProps = $props();
</script>

<div class="pair">
  <TransferCurve {...props} />
  <TracePicture {...props} />
</div>

<style>
  .pair {
    display: flex;
    flex: 1 1 420px;
    gap: 8px;
    min-width: 0;
  }
</style>
