<!-- A clip for the keyboard, the pointer's cursor and for reading aloud; what is seen of it is painted on its lane's canvas. -->
<script lang="ts">
  import { tick } from "svelte";
  import { clipState, type ClipState } from "$lib/core/session/clipState";
  import type { ResolvedClip } from "$lib/core/session/lookup";
  import { partOf } from "$lib/core/render/soundPart";
  import { TREATMENT_KINDS, treatmentKinds } from "$lib/core/session/treatmentKinds";
  import { formatTime } from "$lib/core/units/time";
  import { notices } from "../../shared/notices.svelte";
  import { useEditor } from "../../state/editor.svelte";
  import { newId } from "../../state/editing";
  import { movingOf, moveCommand } from "../../state/moving";
  import { Preferences } from "../../state/preferences.svelte";
  import { choiceOf } from "../../state/selection.svelte";

  interface Props {
    clip: ResolvedClip;
    left: number;
    width: number;
    height: number;
  }

  let { clip, left, width, height }: Props = $props();
  const editor = useEditor();
  const { session, selection, preferences } = editor;

  const words: Record<ClipState, string> = {
    untreated: "untreated",
    live: "live",
    rendered: "rendered",
    stale: "the render no longer matches: the chain plays live",
    off: "all steps off"
  };

  const computing = $derived(editor.transport.computing.has(clip.id));
  const broken = $derived(session.broken.get(clip.recordingId));
  const label = $derived.by(() => {
    const steps = clip.steps.length;
    const start = formatTime(clip.start / editor.sampleRate);
    const seconds = (clip.length / editor.sampleRate).toFixed(2);
    const kinds = treatmentKinds(clip.steps).map((kind) => TREATMENT_KINDS[kind]);
    const linked = clip.chain !== null && session.shown.uses("chains", clip.chain) > 1;
    const under = partOf(clip).under !== undefined;
    const signs = [
      ...kinds,
      ...(linked ? ["shares its chain"] : []),
      ...(under ? ["its recording has a chain"] : [])
    ];
    const treated = signs.length > 0 ? ` (${signs.join(", ")})` : "";
    return `${clip.name}, starts at ${start}, ${seconds} s, ${steps} step${steps === 1 ? "" : "s"}, ${words[clipState(clip)]}${treated}${clip.muted ? ", muted" : ""}${computing ? ", computing: it sounds as before until that is done" : ""}${broken ? `, the file of its recording is ${broken}` : ""}`;
  });

  function onkeydown(event: KeyboardEvent): void {
    if (event.key === "Enter") {
      selection.choose(clip.id, choiceOf(event));
      event.preventDefault();
      return;
    }
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    // With Alt the way to the side is an action's.
    if (!way || (way[1] !== 0) !== event.altKey) return;
    event.preventDefault();
    const ms = preferences.nudgeMs * (event.shiftKey ? 0.1 : 1);
    const frames = Math.max(1, Preferences.frames(ms, editor.sampleRate)) * way[0];
    const ids = selection.has(clip.id) ? selection.clipIds : [clip.id];
    const moving = movingOf(session.document, ids);
    const command = moveCommand(moving, { frames, lanes: way[1] }, preferences.rule, newId());
    if (command && session.run(command)) keepFocus();
  }

  /** On another track it is another element. */
  function keepFocus(): void {
    const { id } = clip;
    tick()
      .then(() => document.querySelector<HTMLElement>(`[data-clip="${CSS.escape(id)}"]`)?.focus())
      .catch((error: unknown) => notices.fault(error));
  }
</script>

<div
  class="clip"
  style:left="{left}px"
  style:width="{width}px"
  style:height="{height}px"
  role="button"
  tabindex="0"
  aria-label={label}
  aria-pressed={selection.has(clip.id)}
  title={label}
  data-clip={clip.id}
  onclick={(event) => {
    // The pointer finds clips by the index; this is a press without one.
    if (event.detail > 0) return;
    event.stopPropagation();
    selection.choose(clip.id, choiceOf(event));
  }}
  {onkeydown}
  onfocus={() => editor.view.reveal(clip.start, clip.start + clip.length)}
></div>

<style>
  .clip {
    position: absolute;
    top: 2px;
    box-sizing: border-box;
    cursor: inherit;
    pointer-events: auto;
    user-select: none;
  }

  .clip:focus-visible {
    outline: 2px solid var(--w-ink);
    outline-offset: -2px;
  }
</style>
