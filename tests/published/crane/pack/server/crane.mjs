export function startCrane() { handle("crane.lift", () => { play("crane_lift", "crane"); }); }
