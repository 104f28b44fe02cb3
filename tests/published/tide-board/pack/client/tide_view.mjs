export function showTide() {
  listen("tide.shown", (n) => say("tide.now", n));
}
