<!-- The lines that are shown: of the clip on the bench, and of tracks whose line is asked for. -->
<script lang="ts">
  import type { Track } from "$lib/core/session/schema";
  import { clipState } from "$lib/core/session/clipState";
  import { useEditor } from "../../state/editor.svelte";
  import { CARD_LESS, CARD_TOP, waveBox, type LaneStack } from "./layout";
  import LineOverlay from "./LineOverlay.svelte";

  let { tracks, stack, near }: { tracks: readonly Track[]; stack: LaneStack; near: readonly boolean[] } =
    $props();
  const { selection, layout, view, pull } = useEditor();

  const clip = $derived(selection.clip);
  const lane = $derived(clip ? tracks.findIndex((track) => track.id === clip.track) : -1);
  /** The line of a clip is there when it has one, or is asked for. */
  const ofClip = $derived(
    clip && lane >= 0 && near[lane] && (clip.line || layout.clipLines) && !pull.ids.has(clip.id)
      ? clip
      : undefined
  );
  /** A list, of one or none: so nothing is asked of what is gone. */
  const clipLines = $derived(
    ofClip
      ? [{ clip: ofClip, box: waveBox(stack.height(lane) - CARD_LESS, clipState(ofClip) !== "untreated") }]
      : []
  );
</script>

{#each tracks as track, i (track.id)}
  {@const kind = layout.trackLine(track.id)}
  {#if kind && near[i]}
    <LineOverlay
      owner={{ kind, track }}
      top={stack.top(i) + CARD_TOP}
      height={stack.height(i) - CARD_LESS}
      from={0}
      to={view.left + view.frames}
    />
  {/if}
{/each}
{#each clipLines as { clip: one, box } (one.id)}
  <LineOverlay
    owner={{ kind: "clip", clip: one }}
    top={stack.top(lane) + CARD_TOP + box.top}
    height={box.height}
    from={one.start}
    to={one.start + one.length}
  />
{/each}
