<!-- What the files say of themselves: sections, tags, cover, broadcast extension. -->
<script lang="ts">
  import { Button, Checkbox, TextInput } from "carbon-components-svelte";
  import { CODINGS } from "$lib/core/delivery/codings";
  import { isTagDate, type Tags } from "$lib/core/delivery/settings";
  import { notices } from "../shared/notices.svelte";
  import { useEditor } from "../state/editor.svelte";

  const { deliveries } = useEditor();
  const settings = $derived(deliveries.settings);
  const coding = $derived(CODINGS[settings.coding]);
  const MOST_COVER_BYTES = 2 << 20;
  const TAGS: readonly (readonly [keyof Tags, string])[] = [
    ["title", "Title"],
    ["artist", "By"],
    ["album", "Album or series"],
    ["track", "Number"],
    ["genre", "Genre"],
    ["date", "Date"],
    ["copyright", "Copyright"],
    ["comment", "Comment"]
  ];
  let picker: HTMLInputElement | undefined = $state();

  function setCover(file: File | undefined): void {
    if (!file) return;
    if (!["image/png", "image/jpeg"].includes(file.type) || file.size > MOST_COVER_BYTES) {
      notices.fault(`"${file.name}" cannot be the cover: it takes a PNG or JPEG picture of at most 2 MB.`);
      return;
    }
    const reader = new FileReader();
    reader.onload = () => deliveries.change({ cover: String(reader.result) });
    reader.onerror = () => notices.fault(`"${file.name}" cannot be read.`);
    reader.readAsDataURL(file);
  }
</script>

<Checkbox
  labelText={settings.coding === "wav" ? "Sections as cue points with names" : "Sections as chapters"}
  checked={settings.sections}
  on:check={({ detail }) => detail !== settings.sections && deliveries.change({ sections: detail })}
/>
<div class="fields">
  {#if settings.coding === "wav"}
    <TextInput
      size="xs"
      labelText="Description"
      placeholder="project and what it is"
      maxlength={256}
      value={settings.description}
      on:input={({ detail }) => deliveries.change({ description: String(detail ?? "") })}
    />
    <TextInput
      size="xs"
      labelText="Originator"
      placeholder="Wring"
      maxlength={32}
      value={settings.originator}
      on:input={({ detail }) => deliveries.change({ originator: String(detail ?? "") })}
    />
    <TextInput
      size="xs"
      labelText="Reference"
      maxlength={32}
      value={settings.reference}
      on:input={({ detail }) => deliveries.change({ reference: String(detail ?? "") })}
    />
  {:else}
    {#each TAGS as [name, label] (name)}
      <TextInput
        size="xs"
        labelText={label}
        maxlength={200}
        value={settings.tags[name]}
        warn={name === "date" && settings.tags.date !== "" && !isTagDate(settings.tags.date)}
        warnText="Players read 2031, 2031-04 or 2031-04-09"
        on:input={({ detail }) =>
          deliveries.change({ tags: { ...settings.tags, [name]: String(detail ?? "") } })}
      />
    {/each}
    {#if coding.cover}
      <div class="cover">
        {#if settings.cover}
          <img src={settings.cover} alt="Cover" />
          <Button kind="ghost" size="small" on:click={() => deliveries.change({ cover: null })}
            >Take the cover off</Button
          >
        {:else}
          <Button kind="tertiary" size="small" on:click={() => picker?.click()}>Cover picture…</Button>
        {/if}
        <input
          bind:this={picker}
          class="visually-hidden"
          type="file"
          accept="image/png,image/jpeg"
          tabindex="-1"
          aria-label="Cover picture"
          onchange={(event) => {
            setCover(event.currentTarget.files?.[0]);
            event.currentTarget.value = "";
          }}
        />
      </div>
    {/if}
  {/if}
</div>

<style>
  .fields {
    display: grid;
    grid-template-columns: repeat(4, minmax(0, 1fr));
    gap: 10px 12px;
    align-items: start;
    margin-top: 8px;
  }

  .cover {
    display: flex;
    align-self: end;
    align-items: center;
    gap: 8px;
  }

  img {
    width: 32px;
    height: 32px;
    object-fit: cover;
    border: 1px solid var(--w-rule);
  }
</style>
