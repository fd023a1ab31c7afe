<!-- What moves with the sound on a picture: painted anew whenever what it reads changes. A canvas, since shapes of an SVG that change with every
     frame have the browser lay out and paint the page anew each time. -->
<script lang="ts">
  import { fit } from "./sizedCanvas";
  import { currentPalette, type Palette } from "./palette";

  interface Props {
    width: number;
    height: number;
    /** Paints it, in CSS pixels from the picture's top left, on nothing. */
    paint: (context: CanvasRenderingContext2D, palette: Palette) => void;
  }

  let { width, height, paint }: Props = $props();
  let canvas: HTMLCanvasElement | undefined = $state();

  $effect(() => {
    const context = canvas?.getContext("2d");
    if (!canvas || !context) return;
    const ratio = window.devicePixelRatio || 1;
    fit(canvas, width, height, ratio);
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.clearRect(0, 0, width, height);
    context.save();
    paint(context, currentPalette());
    context.restore();
  });
</script>

<canvas bind:this={canvas} style:width="{width}px" style:height="{height}px" aria-hidden="true"></canvas>

<style>
  canvas {
    position: absolute;
    top: 0;
    left: 0;
    pointer-events: none;
  }
</style>
