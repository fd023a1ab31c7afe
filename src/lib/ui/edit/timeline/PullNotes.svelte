<!-- What a gesture says of itself: the note beside the pointer, and the line that an edge has snapped to. Painted, and told in words when the
     pointer rests: an element that changes with every move has the browser lay out, paint and look under the pointer anew, which costs a third
     of a frame (`npm run bench`). -->
<script lang="ts">
  import { COUNT_FONT, DIGIT } from "../../shared/canvasFonts";
  import LiveLayer from "../../shared/LiveLayer.svelte";
  import type { Palette } from "../../shared/palette";
  import { useEditor } from "../../state/editor.svelte";

  interface Props {
    /** The part of the lanes that is in sight, in pixels from their top. */
    seen: { readonly top: number; readonly height: number };
  }

  const PLATE = 20;
  const SIDE = 6;
  /** Where the note stands from the pointer: below it, or above where there is no room. */
  const BESIDE = 14;
  const BELOW = 16;
  const ABOVE = PLATE + 8;
  /** A pointer rests after so many milliseconds. */
  const REST_MS = 200;

  let { seen }: Props = $props();
  const { pull, view } = useEditor();
  let told = $state.raw({ note: "", snapped: "" });
  const shown = $derived(pull.note !== null || pull.snapped !== null);

  $effect(() => {
    const words = { note: pull.note?.text ?? "", snapped: pull.snapped?.what ?? "" };
    const timer = setTimeout(() => (told = words), shown ? REST_MS : 0);
    return () => clearTimeout(timer);
  });

  function plate(
    context: CanvasRenderingContext2D,
    text: string,
    at: { readonly x: number; readonly y: number },
    [ground, letters]: readonly [string, string]
  ): void {
    const width = text.length * DIGIT + 2 * SIDE;
    const x = Math.max(0, Math.min(at.x, view.width - width));
    context.fillStyle = ground;
    context.fillRect(x, at.y, width, PLATE);
    context.fillStyle = letters;
    context.fillText(text, x + SIDE, at.y + PLATE - 6);
  }

  function paint(context: CanvasRenderingContext2D, { paper, panel, ink, madder }: Palette): void {
    const { note, snapped } = pull;
    context.font = COUNT_FONT;
    if (snapped) {
      const x = Math.round(view.x(snapped.at)) + 0.5;
      context.strokeStyle = madder;
      context.setLineDash([3, 2]);
      context.beginPath();
      context.moveTo(x, 0);
      context.lineTo(x, seen.height);
      context.stroke();
      plate(context, snapped.what, { x: x + 3, y: 2 }, [panel, madder]);
    }
    if (!note) return;
    const y = note.y - seen.top;
    const below = y + BELOW + PLATE <= seen.height;
    plate(context, note.text, { x: note.x + BESIDE, y: below ? y + BELOW : y - ABOVE }, [ink, paper]);
  }
</script>

{#if shown}
  <div class="notes" style:top="{seen.top}px">
    <LiveLayer width={view.width} height={seen.height} {paint} />
  </div>
{/if}
<p class="visually-hidden" role="status"><span class="note">{told.note}</span> <span>{told.snapped}</span></p>

<style>
  .notes {
    position: absolute;
    z-index: 3;
    left: 0;
    pointer-events: none;
  }
</style>
