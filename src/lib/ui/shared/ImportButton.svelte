<!-- Chooses sound files, or a folder of them, to import. -->
<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import DocumentImport from "carbon-icons-svelte/lib/DocumentImport.svelte";
  import FolderAdd from "carbon-icons-svelte/lib/FolderAdd.svelte";
  import { chosenFiles, type Given } from "./givenFiles";

  interface Props {
    label: string;
    take: (given: Given) => void;
    /** Whether a folder can be chosen too. */
    folder?: boolean;
  }

  let { label, take, folder = false }: Props = $props();
  let picker: HTMLInputElement | undefined = $state();
  let folders: HTMLInputElement | undefined = $state();

  function given(input: HTMLInputElement): void {
    const files = [...(input.files ?? [])];
    input.value = "";
    // The browser has been busy making thousands of them: what is theirs comes after a breath.
    setTimeout(() => take(chosenFiles(files)));
  }
</script>

<Button kind="tertiary" size="small" icon={DocumentImport} on:click={() => picker?.click()}>{label}</Button>
{#if folder}
  <Button kind="tertiary" size="small" icon={FolderAdd} on:click={() => folders?.click()}>Folder…</Button>
{/if}
<input
  bind:this={picker}
  class="visually-hidden"
  type="file"
  accept="audio/*,video/*,.wav,.bwf,.rf64,.w64,.aif,.aiff,.caf,.flac,.mp3,.ogg,.oga,.opus,.m4a,.aac,.wma,.ac3,.mka,.mkv,.mov,.mp4,.webm,.avi"
  multiple
  tabindex="-1"
  aria-label="Sound files to import"
  onchange={(event) => given(event.currentTarget)}
/>
{#if folder}
  <input
    bind:this={folders}
    class="visually-hidden"
    type="file"
    webkitdirectory
    multiple
    tabindex="-1"
    aria-label="Folder to import"
    onchange={(event) => given(event.currentTarget)}
  />
{/if}
