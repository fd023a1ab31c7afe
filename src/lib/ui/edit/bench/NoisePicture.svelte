<!-- What a noise reduction knows of the noise and what it takes, and where it knows it from. -->
<script lang="ts">
  import NoiseSource from "./NoiseSource.svelte";
  import type { PanelProps } from "./pictures";
  import SpectrumPicture from "./SpectrumPicture.svelte";

  let props: PanelProps = $props();
</script>

<SpectrumPicture {...props} />
<NoiseSource {...props} />
