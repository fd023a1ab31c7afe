<!-- The elements of a lane's clips and of their handles: those in sight and half a screen to both sides, wide enough to be hit; and the one on
     the bench. -->
<script lang="ts">
  import { resolveClip } from "$lib/core/session/lookup";
  import type { Clip, Track } from "$lib/core/session/schema";
  import { useEditor } from "../../state/editor.svelte";
  import ClipElement from "./ClipElement.svelte";
  import type { LaidOut } from "./laidOut.svelte";
  import Handles from "./Handles.svelte";
  import { CARD_LESS, CARD_TOP, LEAST_WITH_ELEMENT, LEAST_WITH_HANDLES } from "./layout";

  let { track, top, laidOut }: { track: Track; top: number; laidOut: LaidOut } = $props();
  const { session, selection, clips, layout } = useEditor();

  const found = $derived(clips.overlapping(track.id, laidOut.now.from, laidOut.now.to));
  const wide = (clip: Clip) => laidOut.width(clip.length) >= LEAST_WITH_ELEMENT;
  const first = $derived(selection.clipIds[0]);
  const shown = $derived(found.filter((clip) => clip.id === first || wide(clip)));
  const narrow = $derived(found.length - shown.length);
  const height = $derived(layout.lane(track.id) - CARD_LESS);
  const name = $derived(
    `Clips of ${track.name}${narrow > 0 ? `, and ${narrow} too narrow here: zoom in, or open the list of clips` : ""}`
  );
</script>

<div class="group" role="group" aria-label={name} style:top="{top}px">
  {#each shown as clip (clip.id)}
    <ClipElement clip={resolveClip(session.shown, clip)} {...laidOut.box(clip.start, clip.length)} {height} />
    {#if clip.id === first ? wide(clip) : laidOut.width(clip.length) >= LEAST_WITH_HANDLES}
      <Handles
        clip={resolveClip(session.shown, clip)}
        onBench={clip.id === first}
        top={CARD_TOP}
        {height}
        {laidOut}
      />
    {/if}
  {/each}
</div>

<style>
  .group {
    position: absolute;
    left: 0;
  }
</style>
