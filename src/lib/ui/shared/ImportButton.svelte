<!-- Chooses sound files to import. -->
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
  accept="audio/*,video/*,.wav,.bwf,.rf64,.w64,.aif,.aiff,.caf,.flac,.mp3,.ogg,.oga,.opus,.m4a,.aac,.wma,.ac3,.mka,.mkv,.mov,.mp4,.webm,.avi"
  multiple
  tabindex="-1"
  aria-label="Sound files to import"
  onchange={(event) => {
    if (event.currentTarget.files) take(event.currentTarget.files);
    event.currentTarget.value = "";
  }}
/>
