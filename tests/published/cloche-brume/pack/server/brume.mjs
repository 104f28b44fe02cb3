import { SOUNDS } from "../common/names.mjs";
export function startFog(minutes) {
  handle("brume.sonner", () => { play("cloche_brume", "bell_post"); });
}
