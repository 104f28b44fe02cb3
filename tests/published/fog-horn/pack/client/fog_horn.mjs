export function hearHorn() {
  listen("fog.blown", () => { hear("horn_blow"); say("fog.blows"); });
}
