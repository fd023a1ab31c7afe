<!-- The edges and fades of a clip for the keyboard and for reading aloud; the pointer finds them by the clip's own measures. -->
<script lang="ts">
  import type { ResolvedClip } from "$lib/core/session/lookup";
  import { lengthText, placeText } from "$lib/core/units/timeFormat";
  import { newId } from "../../state/editing";
  import { useEditor } from "../../state/editor.svelte";
  import { Preferences } from "../../state/preferences.svelte";
  import { shapeCommand, shapeGround, type ClipEdge } from "../../state/shaping";
  import { GRIP } from "./layout";
  import type { LaidOut } from "./laidOut.svelte";

  interface Props {
    clip: ResolvedClip;
    /** Then they are in the order of Tab: with those of all clips in it, it would lead nowhere. */
    onBench: boolean;
    top: number;
    height: number;
    laidOut: LaidOut;
  }

  let { clip, onBench, top, height, laidOut }: Props = $props();
  const editor = useEditor();
  const { session, selection, preferences, sampleRate } = editor;

  const place = (frame: number) => placeText(frame, sampleRate, preferences.time);
  const length = (frames: number) => lengthText(frames, sampleRate, preferences.time);
  const end = $derived(clip.start + clip.length);
  const handles = $derived([
    {
      edge: "left" as const,
      at: clip.start,
      name: `Start of ${clip.name}`,
      value: clip.start,
      text: place(clip.start)
    },
    {
      edge: "fadeIn" as const,
      at: clip.start + clip.fadeIn.length,
      name: `Fade in of ${clip.name}`,
      value: clip.fadeIn.length,
      text: length(clip.fadeIn.length)
    },
    {
      edge: "fadeOut" as const,
      at: end - clip.fadeOut.length,
      name: `Fade out of ${clip.name}`,
      value: clip.fadeOut.length,
      text: length(clip.fadeOut.length)
    },
    { edge: "right" as const, at: end, name: `End of ${clip.name}`, value: end, text: place(end) }
  ]);

  function key(event: KeyboardEvent, edge: ClipEdge): void {
    const way = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 }[event.key];
    if (way === undefined || event.altKey) return;
    event.preventDefault();
    event.stopPropagation();
    const ms = preferences.nudgeMs * (event.shiftKey ? 0.1 : 1);
    const by = way * Math.max(1, Preferences.frames(ms, sampleRate));
    const others = selection.clipIds.flatMap((id) => session.document.get("clips", id) ?? []);
    const command = shapeCommand(clip, edge, by, shapeGround(editor, newId()), others);
    if (command) session.run(command);
  }
</script>

{#each handles as { edge, at, name, value, text } (edge)}
  <div
    class="handle"
    data-handle-of={clip.id}
    role="slider"
    tabindex={onBench ? 0 : -1}
    aria-label={name}
    aria-valuenow={value}
    aria-valuetext={text}
    style:left="{laidOut.box(at, 0).left - GRIP / 2}px"
    style:top="{top}px"
    style:width="{GRIP}px"
    style:height="{edge === 'left' || edge === 'right' ? height : GRIP + 4}px"
    onkeydown={(event) => key(event, edge)}
  ></div>
{/each}

<style>
  .handle {
    position: absolute;
    pointer-events: none;
  }

  .handle:focus-visible {
    outline: 2px solid var(--w-ink);
    outline-offset: 0;
  }
</style>
