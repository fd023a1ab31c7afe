<!-- The line at what sounds now, over a picture; nothing where it is not in sight. It moves with every frame: a canvas, one row of pixels drawn out
     to the picture's height, since an element that moves has the browser lay out and paint the page anew, which costs more than all the rest
     (`npm run bench`). -->
<script lang="ts">
  import { currentPalette } from "./palette";

  interface Props {
    /** Pixels from the picture's left edge. */
    x: number;
    /** Width of the picture in pixels. */
    width: number;
  }

  const LINE = 1.5;

  let { x, width }: Props = $props();
  let canvas: HTMLCanvasElement | undefined = $state();

  $effect(() => {
    const context = canvas?.getContext("2d");
    if (!canvas || !context) return;
    const ratio = window.devicePixelRatio || 1;
    const wide = Math.max(1, Math.round(width * ratio));
    if (canvas.width !== wide) canvas.width = wide;
    context.clearRect(0, 0, wide, 1);
    if (x < 0 || x > width) return;
    context.fillStyle = currentPalette().ink;
    context.fillRect((x - LINE / 2) * ratio, 0, LINE * ratio, 1);
  });
</script>

<canvas bind:this={canvas} height="1" style:width="{width}px" aria-hidden="true"></canvas>

<style>
  canvas {
    position: absolute;
    z-index: 3;
    top: 0;
    left: 0;
    height: 100%;
    image-rendering: pixelated;
    pointer-events: none;
  }
</style>
