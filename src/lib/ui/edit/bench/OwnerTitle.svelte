<!-- Who is on the bench when it is no clip, and who hears its chain. -->
<script lang="ts">
  import type { Owner } from "$lib/core/session/owners";
  import { useEditor } from "../../state/editor.svelte";

  let { owner, name }: { owner: Owner; name: string } = $props();
  const { session } = useEditor();

  const MOST = 4;
  const KIND = { tracks: "Track", recordings: "Recording", project: "Mix", clips: "Clip" } as const;
  const hearers = $derived(
    owner.table === "recordings"
      ? [...session.shown.values("clips")].filter((clip) => clip.content.recordingId === owner.id)
      : []
  );
  const names = $derived(
    hearers
      .slice(0, MOST)
      .map((clip) => clip.name)
      .join(", ") + (hearers.length > MOST ? ` and ${hearers.length - MOST} more` : "")
  );
</script>

<h2>
  {KIND[owner.table]}
  {#if owner.table !== "project"}<span class="name">{name}</span>{/if}
</h2>
{#if owner.table === "recordings"}
  <span class={hearers.length > 1 ? "warn" : "soft"} title={hearers.map((clip) => clip.name).join(", ")}>
    {hearers.length === 0
      ? "no clip shows it yet"
      : `heard by ${hearers.length} clip${hearers.length === 1 ? "" : "s"}: ${names}`}
  </span>
{/if}

<style>
  h2 {
    margin: 0;
    font-size: 14px;
    font-weight: 600;
    white-space: nowrap;
  }

  .name {
    margin-left: 2px;
    font-weight: 400;
  }

  .warn,
  .soft {
    overflow: hidden;
    max-width: 420px;
    font-size: 12px;
    text-overflow: ellipsis;
    white-space: nowrap;
  }

  .warn {
    color: var(--w-madder);
  }
</style>
