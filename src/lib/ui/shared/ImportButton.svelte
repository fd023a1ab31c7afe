<!-- Chooses sound files, or a folder of them, to import. -->
<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import DocumentImport from "carbon-icons-svelte/lib/DocumentImport.svelte";
  import FolderAdd from "carbon-icons-svelte/lib/FolderAdd.svelte";
  import { ACCEPTED, chosenFiles, type Given } from "./givenFiles";
  import { notices } from "./notices.svelte";

  interface Props {
    label: string;
    take: (given: Given) => void;
    /** Whether a folder can be chosen too. */
    folder?: boolean;
  }

  let { label, take, folder = false }: Props = $props();
  let picker: HTMLInputElement | undefined = $state();
  let folders: HTMLInputElement | undefined = $state();

  /** Fewer are ordered and taken in no time. */
  const MANY = 200;
  const breath = () => new Promise((resolve) => setTimeout(resolve));

  /** Of thousands of files the browser makes its list in the task of the event: ordering them and taking them are tasks of their own. */
  async function given(input: HTMLInputElement): Promise<void> {
    const files = [...(input.files ?? [])];
    input.value = "";
    const many = files.length > MANY;
    if (many) await breath();
    const chosen = chosenFiles(files);
    if (many) await breath();
    take(chosen);
  }

  function choose({ currentTarget }: Event & { readonly currentTarget: HTMLInputElement }): void {
    given(currentTarget).catch((error: unknown) => notices.fault(error));
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
  accept={ACCEPTED}
  multiple
  tabindex="-1"
  aria-label="Sound files to import"
  onchange={choose}
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
    onchange={choose}
  />
{/if}
