<!-- The sound on the bench before and after its chain, one above the other on one time axis; each by its own scale, or both by one. -->
<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import FitToHeight from "carbon-icons-svelte/lib/FitToHeight.svelte";
  import HeatMap from "carbon-icons-svelte/lib/HeatMap.svelte";
  import Layers from "carbon-icons-svelte/lib/Layers.svelte";
  import ZoomArea from "carbon-icons-svelte/lib/ZoomArea.svelte";
  import { effectOf } from "$lib/core/effects/registry";
  import type { Command } from "$lib/core/session/commands";
  import { stepsOfOwner } from "$lib/core/session/owners";
  import type { Step } from "$lib/core/session/schema";
  import { spanOrigin } from "$lib/core/session/spans";
  import { formatDb, gainToDb } from "$lib/core/units/decibels";
  import Playhead from "../../shared/Playhead.svelte";
  import { draggable } from "../../shared/draggable";
  import { useEditor } from "../../state/editor.svelte";
  import { currentPalette } from "../../shared/palette";
  import { shownTime, subjectTime } from "./subjectTime";
  import { drawPeaks, drawSpectra, strokePeaks } from "./wavePicture";

  type Side = "before" | "after";
  const editor = useEditor();
  const { session, analysis, transport, selection, layout } = editor;
  /** Height of each of the two pictures. */
  const ROW = 44;
  /** Quieter sound is drawn no taller than this: it is not made to look like something. */
  const LEAST_PEAK = 1e-5;

  const ways = [
    {
      id: "oneScale",
      name: "One scale",
      title:
        "Both drawn by one scale: how much louder one is can be seen. Off: each by its own, so that quiet sound can be seen.",
      icon: FitToHeight
    },
    {
      id: "overlaid",
      name: "Overlaid",
      title: "After filled, before as a line over it. Off: one above the other.",
      icon: Layers
    },
    {
      id: "zoomed",
      name: "Zoom with the timeline",
      title: "Shows what the timeline shows of the clip. Off: all of it.",
      icon: ZoomArea
    },
    {
      id: "spectra",
      name: "Spectrogram",
      title: "Drawn as spectra over time, 20 Hz below, 20 kHz above, -110 to -20 dB.",
      icon: HeatMap
    }
  ] as const;

  let width = $state(300);
  let canvas: HTMLCanvasElement | undefined = $state();

  const peakOf = (peaks: ArrayLike<number> | null) =>
    peaks ? Array.from(peaks).reduce((most, v) => Math.max(most, v), 0) : 0;
  const tops = $derived({ before: peakOf(analysis.before), after: peakOf(analysis.after) });
  const common = $derived(Math.max(LEAST_PEAK, tops.before, tops.after));
  const scale = (side: Side) => (layout.oneScale ? common : Math.max(LEAST_PEAK, tops[side]));

  /** What is drawn of each, as shares of the whole. */
  const shown = $derived.by(() => {
    const whole = subjectTime(editor);
    const part = shownTime(editor);
    if (!whole || !part) return { from: 0, to: 1 };
    const length = whole.to - whole.from;
    return { from: (part.from - whole.from) / length, to: (part.to - whole.from) / length };
  });

  $effect(() => {
    if (!canvas) return;
    const context = canvas.getContext("2d");
    if (!context) return;
    const ratio = window.devicePixelRatio || 1;
    canvas.width = Math.round(width * ratio);
    canvas.height = Math.round(2 * ROW * ratio);
    const palette = currentPalette();
    context.fillStyle = palette.paper;
    context.fillRect(0, 0, canvas.width, canvas.height);
    const spectra = layout.spectra ? analysis.spectra : null;
    const row = ROW * ratio;
    if (spectra) {
      drawSpectra(context, spectra.before, { top: 0, height: row, ...shown }, [palette.paper, palette.slate]);
      drawSpectra(context, spectra.after, { top: row, height: row, ...shown }, [
        palette.paper,
        palette.madder
      ]);
    } else if (layout.overlaid) {
      const box = { top: 0, height: 2 * row, ...shown };
      context.fillStyle = palette.madder;
      drawPeaks(context, analysis.after, { ...box, full: scale("after") });
      context.strokeStyle = palette.ink;
      context.lineWidth = ratio;
      strokePeaks(context, analysis.before, { ...box, full: scale("before") });
      return;
    } else {
      context.fillStyle = palette.slate;
      drawPeaks(context, analysis.before, { top: 0, height: row, full: scale("before"), ...shown });
      context.fillStyle = palette.madder;
      drawPeaks(context, analysis.after, { top: row, height: row, full: scale("after"), ...shown });
    }
    context.fillStyle = palette.rule;
    context.fillRect(0, row, canvas.width, 1);
  });

  const time = $derived(shownTime(editor));
  /** Share of the picture at which a frame of the timeline lies. */
  const place = (frame: number) => (time ? (frame - time.from) / (time.to - time.from) : -1);
  const playhead = $derived(place(transport.position));

  /** A stretch of the timeline as far as the picture shows it, in pixels. */
  function stretch(from: number, to: number): { left: number; width: number } | undefined {
    const [a, b] = [Math.max(0, place(from)), Math.min(1, place(to))];
    return b > a ? { left: a * width, width: (b - a) * width } : undefined;
  }

  const range = $derived(
    time && selection.range && selection.clip ? stretch(selection.range.from, selection.range.to) : undefined
  );
  const spans = $derived.by(() => {
    const { owner, clip, steps } = selection.subject;
    if (!time) return [];
    // Spans of clips count from the recording's start, those of tracks and of the mix on the timeline.
    const shift = clip ? clip.start - clip.offset : -spanOrigin(session.shown, owner);
    return steps.flatMap((step) => {
      const at = step.span && stretch(step.span.from + shift, step.span.to + shift);
      return at ? [{ step, ...at }] : [];
    });
  });

  /** What of a span is being pulled, and by how many pixels. */
  let grasp: "from" | "to" | "all" = "all";
  let pulledBy = 0;
  /** Pixels of a span's ends by which it is trimmed. */
  const END = 6;

  function graspOf(event: PointerEvent, wide: number): typeof grasp {
    if (wide < 3 * END) return "all";
    return event.offsetX < END ? "from" : event.offsetX > wide - END ? "to" : "all";
  }

  /** Moves or trims a span; it is heard while it is pulled, and kept when it is let go. */
  function pullSpan(step: Step, dx: number, made: boolean): void {
    const { owner } = selection.subject;
    const stored = stepsOfOwner(session.document, owner).find((one) => one.id === step.id)?.span;
    if (!time || !stored) return;
    pulledBy = dx;
    const by = Math.round((dx / width) * (time.to - time.from));
    const command: Command =
      grasp === "all"
        ? { type: "span.move", owner, stepId: step.id, by }
        : {
            type: "span.trim",
            owner,
            stepId: step.id,
            [grasp]:
              grasp === "from"
                ? Math.max(0, Math.min(stored.to - 1, stored.from + by))
                : Math.max(stored.from + 1, stored.to + by)
          };
    if (made) session.run(command);
    else session.draft(command);
  }

  let bar: HTMLElement | undefined = $state();
  let anchor = 0;
  const frameOf = (clientX: number) => {
    const share = (clientX - (bar?.getBoundingClientRect().left ?? 0)) / width;
    return time ? Math.round(time.from + Math.max(0, Math.min(1, share)) * (time.to - time.from)) : 0;
  };

  function select(dx: number, clientX: number): void {
    if (!time || !selection.clip) return;
    const here = frameOf(clientX);
    if (anchor < 0) anchor = frameOf(clientX - dx);
    if (Math.abs(dx) > 3) selection.range = { from: Math.min(anchor, here), to: Math.max(anchor, here) + 1 };
  }

  const label = (side: Side) => (tops[side] > 0 ? `${formatDb(gainToDb(tops[side]))} dBFS` : "");
</script>

<div class="pair" style:--row="{ROW}px">
  <div class="names" title="The highest peak of each">
    <span>before<br /><span class="number">{label("before")}</span></span>
    <span>after<br /><span class="number">{label("after")}</span></span>
    <span class="ways" role="group" aria-label="How before and after are drawn">
      {#each ways as { id, name, title, icon } (id)}
        <Button
          kind="ghost"
          size="small"
          {icon}
          iconDescription={name}
          tooltipPosition="right"
          aria-pressed={layout[id]}
          {title}
          on:click={() => (layout[id] = !layout[id])}
        />
      {/each}
    </span>
  </div>
  <!-- Keyboard: the transport's fields and the range's keys do all that a click here does. -->
  <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
  <div
    class="picture"
    bind:this={bar}
    bind:clientWidth={width}
    title={time ? "Click to go there, drag to select a range" : ""}
    onclick={(event) => time && transport.locate(frameOf(event.clientX))}
    use:draggable={{
      onstart: () => (anchor = -1),
      onmove: (dx, _dy, clientX) => select(dx, clientX),
      onend: () => undefined
    }}
  >
    <span class="drawn" role="img" aria-label="Waveform before the chain, above, and after it, below">
      <canvas bind:this={canvas}></canvas>
    </span>
    {#if range}<span class="range" style:left="{range.left}px" style:width="{range.width}px"></span>{/if}
    {#each spans as { step, left, width: wide }, i (step.id)}
      <!-- Keyboard: the fields of the step's panel move and trim it. -->
      <span
        class="span"
        class:chosen={selection.stepId === step.id}
        class:off={!step.on}
        data-span={step.id}
        role="presentation"
        title="What {effectOf(step.effect).name} treats: pull it, or its ends"
        style:left="{left}px"
        style:width="{wide}px"
        style:bottom="{2 + i * 8}px"
        onclick={(event) => {
          event.stopPropagation();
          selection.stepId = step.id;
        }}
        onpointerdown={(event) => (grasp = graspOf(event, wide))}
        use:draggable={{
          onstart: () => (selection.stepId = step.id),
          onmove: (dx) => pullSpan(step, dx, false),
          onend: () => pullSpan(step, pulledBy, true)
        }}
      ></span>
    {/each}
    <Playhead x={playhead * width} {width} />
  </div>
</div>

<style>
  .pair {
    display: grid;
    grid-template-columns: 136px minmax(0, 1fr);
    min-width: 0;
    padding: 3px 10px 3px 12px;
    border-bottom: 1px solid var(--w-rule);
  }

  .names {
    position: relative;
    display: grid;
    grid-template-rows: var(--row) var(--row);
    color: var(--w-soft);
    font-size: 12px;
  }

  .names > span {
    padding-top: 4px;
    white-space: nowrap;
  }

  .ways {
    position: absolute;
    top: 0;
    right: 4px;
    display: grid;
    grid-template-columns: 24px 24px;
    gap: 2px;
  }

  .ways > :global(.bx--btn[aria-pressed="true"]) {
    background: var(--w-select);
  }

  .picture {
    position: relative;
    height: calc(2 * var(--row));
    overflow: hidden;
    cursor: text;
    touch-action: none;
    user-select: none;
  }

  canvas {
    display: block;
    width: 100%;
    height: calc(2 * var(--row));
  }

  .range {
    position: absolute;
    top: 0;
    bottom: 0;
    background: var(--w-select);
    border-inline: 1px solid var(--w-ochre);
  }

  .span {
    position: absolute;
    box-sizing: border-box;
    height: 7px;
    border-inline: 3px solid var(--w-ink);
    background: color-mix(in srgb, var(--w-ink) 45%, transparent);
    cursor: grab;
  }

  .span.chosen {
    background: var(--w-ink);
  }

  .span.off {
    background: transparent;
    border: 1px solid var(--w-soft);
  }
</style>
