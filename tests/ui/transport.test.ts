import { beforeEach, describe, expect, it, vi } from "vitest";
import { findClip, type ResolvedClip } from "../../src/lib/core/session/lookup";
import { notices } from "../../src/lib/ui/shared/notices.svelte";
import type { Analysis } from "../../src/lib/ui/state/analysis.svelte";
import type { Selection } from "../../src/lib/ui/state/selection.svelte";
import type { Session } from "../../src/lib/ui/state/session.svelte";
import { Transport } from "../../src/lib/ui/state/transport.svelte";
import { FakePlayer } from "../support/fakePlayer";
import { clipOf, documentWith } from "../core/signals";

vi.mock("$lib/playback/player", async () => ({
  Player: (await import("../support/fakePlayer")).FakePlayer
}));

const doc = documentWith(
  clipOf("a", 48000, { gainDb: -2, steps: [{ id: "g", effect: "gain", params: { gainDb: 12 } }] })
);
const session = { document: doc, shown: doc } as unknown as Session;
const selection = {
  range: null as { from: number; to: number } | null,
  clip: undefined as ResolvedClip | undefined,
  get subject() {
    return { owner: { table: "clips", id: this.clip?.id }, clip: this.clip };
  }
};
const analysis = { start: undefined as unknown, output: null as unknown };
let transport: Transport;
const player = () => FakePlayer.last;

beforeEach(() => {
  vi.stubGlobal("requestAnimationFrame", () => 1);
  vi.stubGlobal("cancelAnimationFrame", () => undefined);
  for (const notice of notices.list) notices.dismiss([notice.id]);
  selection.range = null;
  selection.clip = findClip(doc, "clip-a")?.clip;
  Object.assign(analysis, { start: undefined, output: null });
  transport = new Transport(session, selection as unknown as Selection, analysis as unknown as Analysis);
});

describe("the transport", () => {
  it("plays from the playhead and stops where it is", () => {
    transport.locate(1234.4);
    transport.toggle();
    expect(player().calls).toEqual([
      ["locate", 1234],
      ["play", 1234]
    ]);
    expect(transport.playing).toBe(true);
    player().position = 5000;
    transport.toggle();
    expect([transport.playing, transport.position]).toEqual([false, 5000]);
  });

  it("begins at the loop's start when the playhead lies outside, and gives the loop to the player", () => {
    selection.range = { from: 100, to: 200 };
    transport.looping = true;
    transport.giveLoop();
    expect(player().loop).toEqual({ from: 100, to: 200 });
    transport.locate(500);
    transport.play();
    transport.locate(150);
    transport.play();
    expect(player().calls.filter(([what]) => what === "play")).toEqual([
      ["play", 100],
      ["play", 150]
    ]);
  });

  it("plays a selected range, from the playhead when that lies in it, and stops at its end", () => {
    selection.range = { from: 100, to: 200 };
    transport.locate(500);
    transport.play();
    expect([player().calls.at(-1), player().until]).toEqual([["play", 100], 200]);
    transport.locate(150);
    transport.play();
    expect([player().calls.at(-1), player().until]).toEqual([["play", 150], 200]);
    selection.range = null;
    transport.locate(150);
    transport.play();
    expect([player().calls.at(-1), player().until]).toEqual([["play", 150], null]);
  });

  it("gives the player the clip without its chain when 'before' is listened to, at equal loudness if wanted", () => {
    transport.giveDocument();
    expect(player().document).toBe(doc);
    transport.switchListening();
    transport.giveDocument();
    expect(player().document?.get("clips", "clip-a")).toMatchObject({ chain: null, gainDb: -2 });
    transport.equalLoudness = true;
    Object.assign(analysis, {
      start: { integratedLufs: -30, truePeakDbtp: -20 },
      output: { integratedLufs: -20, truePeakDbtp: -10 }
    });
    expect(transport.gains).toEqual({ beforeGainDb: 12, afterGainDb: 0 });
    transport.giveDocument();
    expect(player().document?.get("clips", "clip-a")?.gainDb).toBe(10);
  });

  it("says what went wrong, and is then in the state that it is in", async () => {
    player().trouble = new Error("No sound can be played here.");
    transport.play();
    await vi.waitFor(() => expect(notices.list.map((n) => n.text)).toEqual(["No sound can be played here."]));
    expect(transport.playing).toBe(false);
    player().events.onfault("The audio of the recording is missing.");
    expect(notices.list).toHaveLength(2);
    player().events.onpreparing(0.3);
    expect(transport.preparing).toBe(0.3);
    transport.close();
  });
});
