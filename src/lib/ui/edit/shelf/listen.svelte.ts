// Hearing a recording on the shelf as it is, without adding it to anything.
import { notices } from "../../shared/notices.svelte";

export class Listen {
  /** Id of the recording that sounds. */
  id = $state<string | null>(null);
  /** Share of it that has been heard. */
  share = $state(0);
  #sound: HTMLAudioElement | undefined;

  toggle(id: string): void {
    const same = this.id === id;
    this.stop();
    if (same) return;
    const sound = new Audio(`/api/recordings/${id}/file`);
    this.#sound = sound;
    this.id = id;
    this.share = 0;
    sound.ontimeupdate = () => {
      if (this.#sound === sound) this.share = sound.duration > 0 ? sound.currentTime / sound.duration : 0;
    };
    sound.onended = () => this.#sound === sound && this.stop();
    sound.onerror = () => {
      if (this.#sound !== sound) return;
      this.stop();
      notices.fault("The recording cannot be played: its file cannot be read here.");
    };
    sound.play().catch((error: unknown) => {
      // Stopped before it began.
      if ((error as Error).name !== "AbortError" && this.#sound === sound) notices.fault(error);
    });
  }

  stop(): void {
    this.#sound?.pause();
    this.#sound = undefined;
    this.id = null;
  }
}
