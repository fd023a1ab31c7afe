<!-- The picture of a video, small and without sound, in step with the playhead. -->
<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import Close from "carbon-icons-svelte/lib/Close.svelte";
  import { inStep, middleOfPicture, momentAt, videoClips } from "$lib/core/session/pictures";
  import { notices } from "../../shared/notices.svelte";
  import { useEditor } from "../../state/editor.svelte";

  const editor = useEditor();
  const { session, transport, layout, sampleRate, pictures } = editor;
  /** After a jump the picture takes this long to be there. */
  const AHEAD_SECONDS = 0.06;
  const SETTLE_MS = 300;
  let element: HTMLVideoElement | undefined = $state();
  let jumped = 0;
  const clips = $derived(videoClips(session.shown));
  const moment = $derived(momentAt(clips, transport.position, sampleRate));
  // The last picture stays while the playhead is between clips.
  let shown = $state.raw<typeof moment>(undefined);
  $effect(() => {
    if (moment) shown = moment;
  });
  const recording = $derived(shown?.recording ?? clips[0]?.recording);
  /** What is shown where the browser cannot show the video itself. */
  const copy = $derived(recording && pictures.copyOf(recording.id));

  $effect(() => {
    const video = element;
    if (!video || !moment) {
      video?.pause();
      return;
    }
    const rate = moment.recording.about?.video?.frameRate ?? 0;
    // A copy begins at the first picture.
    const now = Math.max(0, copy === "there" ? moment.sincePicture : moment.seconds);
    if (!transport.playing) {
      video.pause();
      const still = middleOfPicture(now, rate);
      if (Math.abs(video.currentTime - still) > 0.001) video.currentTime = still;
      return;
    }
    if (video.paused) video.play().catch(() => undefined);
    if (performance.now() - jumped < SETTLE_MS) return;
    const { speed, jump } = inStep(video.currentTime - now);
    if (jump) {
      jumped = performance.now();
      video.currentTime = now + AHEAD_SECONDS;
    }
    if (video.playbackRate !== speed) video.playbackRate = speed;
  });

  function unseen(id: string): void {
    pictures.unseen(id).catch((error: unknown) => notices.fault(error));
  }
</script>

{#if recording && layout.picture}
  <figure aria-label="Picture of {recording.name}" class:shelved={editor.shelfOpen}>
    {#if copy === "none"}
      <p>
        This browser cannot show the picture of “{recording.about?.file ?? recording.name}”, nor a copy of it.
        Its sound can be treated all the same.
      </p>
    {:else if typeof copy === "object"}
      <p role="status">
        This browser cannot show the picture of “{recording.about?.file ?? recording.name}”: a small copy that
        it can show is being made, {Math.round(100 * copy.share)} %.
      </p>
    {:else}
      {#key `${recording.id} ${copy}`}
        <!-- What is heard is the timeline. -->
        <video
          bind:this={element}
          src="/api/recordings/{recording.id}/{copy === 'there' ? 'picture' : 'video'}"
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

  /* Beside the shelf, which lies over the timeline's right. */
  .shelved {
    right: 292px;
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
