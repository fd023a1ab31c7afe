<!-- The picture of a video, small and without sound, in step with the playhead. -->
<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import Close from "carbon-icons-svelte/lib/Close.svelte";
  import { inStep, middleOfPicture, momentAt, videoClips } from "$lib/core/session/pictures";
  import { useEditor } from "../../state/editor.svelte";

  const { session, transport, layout, sampleRate } = useEditor();
  /** After a jump the picture takes this long to be there. */
  const AHEAD_SECONDS = 0.06;
  const SETTLE_MS = 300;
  let element: HTMLVideoElement | undefined = $state();
  /** Recordings whose picture the browser cannot show. */
  let blind = $state.raw<ReadonlySet<string>>(new Set());
  let jumped = 0;
  const clips = $derived(videoClips(session.shown));
  const moment = $derived(momentAt(clips, transport.position, sampleRate));
  // The last picture stays while the playhead is between clips.
  let shown = $state.raw<typeof moment>(undefined);
  $effect(() => {
    if (moment) shown = moment;
  });
  const recording = $derived(shown?.recording ?? clips[0]?.recording);

  $effect(() => {
    const video = element;
    if (!video || !moment) {
      video?.pause();
      return;
    }
    const rate = moment.recording.about?.video?.frameRate ?? 0;
    if (!transport.playing) {
      video.pause();
      const still = middleOfPicture(moment.seconds, rate);
      if (Math.abs(video.currentTime - still) > 0.001) video.currentTime = still;
      return;
    }
    if (video.paused) video.play().catch(() => undefined);
    if (performance.now() - jumped < SETTLE_MS) return;
    const { speed, jump } = inStep(video.currentTime - moment.seconds);
    if (jump) {
      jumped = performance.now();
      video.currentTime = moment.seconds + AHEAD_SECONDS;
    }
    if (video.playbackRate !== speed) video.playbackRate = speed;
  });

  function unseen(id: string): void {
    blind = new Set([...blind, id]);
  }
</script>

{#if recording && layout.picture}
  <figure aria-label="Picture of {recording.name}">
    {#if blind.has(recording.id)}
      <p>
        This browser cannot show the picture of “{recording.about?.file ?? recording.name}”. Its sound can be
        treated all the same.
      </p>
    {:else}
      {#key recording.id}
        <!-- What is heard is the timeline. -->
        <video
          bind:this={element}
          src="/api/recordings/{recording.id}/video"
          muted
          playsinline
          preload="auto"
          class:off={!moment}
          onloadeddata={(event) => event.currentTarget.videoWidth === 0 && unseen(recording.id)}
          onerror={() => unseen(recording.id)}
        ></video>
      {/key}
    {/if}
    <span class="close">
      <Button
        kind="ghost"
        size="small"
        icon={Close}
        iconDescription="Hide the picture"
        tooltipPosition="left"
        on:click={() => (layout.picture = false)}
      />
    </span>
  </figure>
{/if}

<style>
  figure {
    position: absolute;
    right: 12px;
    bottom: 30px;
    z-index: 4;
    width: 240px;
    margin: 0;
    border: 1px solid var(--w-soft);
    background: var(--w-panel);
    box-shadow: 0 2px 8px rgb(0 0 0 / 12%);
  }

  video {
    display: block;
    width: 100%;
    aspect-ratio: 16 / 9;
    background: #000;
  }

  .off {
    opacity: 0.4;
  }

  p {
    margin: 0;
    padding: 12px 32px 12px 12px;
    font-size: 12px;
  }

  .close {
    position: absolute;
    top: 0;
    right: 0;
    opacity: 0;
  }

  figure:hover .close,
  .close:focus-within {
    opacity: 1;
    background: var(--w-panel);
  }
</style>
