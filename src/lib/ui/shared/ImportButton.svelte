<!-- Chooses WAV files to import. -->
<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import DocumentImport from "carbon-icons-svelte/lib/DocumentImport.svelte";

  let { label, take }: { label: string; take: (files: FileList) => void } = $props();
  let picker: HTMLInputElement | undefined = $state();
</script>

<Button kind="tertiary" size="small" icon={DocumentImport} on:click={() => picker?.click()}>{label}</Button>
<input
  bind:this={picker}
  class="visually-hidden"
  type="file"
  accept=".wav,audio/wav,audio/x-wav"
  multiple
  tabindex="-1"
  aria-label="WAV files to import"
  onchange={(event) => {
    if (event.currentTarget.files) take(event.currentTarget.files);
    event.currentTarget.value = "";
  }}
/>
