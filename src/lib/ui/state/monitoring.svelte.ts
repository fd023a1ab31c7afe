// How one listens, by one's own choice; kept in the browser. Nothing of it changes the project, a render or an export.
import { z } from "zod";
import { GUARD_LU } from "$lib/core/monitor/earGuard";
import type { MonitorSetting } from "$lib/core/monitor/monitor";

const KEY = "wring.monitor";
export const MONITOR_LEAST_DB = -60;
export const MONITOR_MOST_DB = 12;
export const GUARD_LEAST_LU = 1;
export const GUARD_MOST_LU = 24;
export const ROLL_MOST_SECONDS = 10;

const kept = z.object({
  gainDb: z.number().min(MONITOR_LEAST_DB).max(MONITOR_MOST_DB),
  guarded: z.boolean(),
  guardLu: z.number().min(GUARD_LEAST_LU).max(GUARD_MOST_LU),
  preRoll: z.number().min(0).max(ROLL_MOST_SECONDS),
  postRoll: z.number().min(0).max(ROLL_MOST_SECONDS)
});
type Kept = z.infer<typeof kept>;

const STANDARD: Kept = { gainDb: 0, guarded: true, guardLu: GUARD_LU, preRoll: 0, postRoll: 0 };

function restored(): Kept {
  try {
    const found = kept.safeParse(JSON.parse(localStorage.getItem(KEY) ?? "{}"));
    return found.success ? found.data : STANDARD;
  } catch {
    // Not what this wrote.
    return STANDARD;
  }
}

export class Monitoring {
  gainDb = $state(STANDARD.gainDb);
  /** Whether switches are kept from jumping, and by how much they may, in LU. */
  guarded = $state(STANDARD.guarded);
  guardLu = $state(STANDARD.guardLu);
  /** Seconds that a preview begins before what is selected, and ends behind it. */
  preRoll = $state(STANDARD.preRoll);
  postRoll = $state(STANDARD.postRoll);

  constructor() {
    Object.assign(this, restored());
  }

  get setting(): MonitorSetting {
    return { gainDb: this.gainDb, guardLu: this.guarded ? this.guardLu : null };
  }

  /** Call in an effect: keeps what is chosen. */
  keep(): void {
    const { gainDb, guarded, guardLu, preRoll, postRoll } = this;
    localStorage.setItem(KEY, JSON.stringify({ gainDb, guarded, guardLu, preRoll, postRoll } satisfies Kept));
  }
}
