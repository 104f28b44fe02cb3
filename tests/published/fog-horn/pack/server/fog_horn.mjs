export function fogHorn(seconds) {
  every(seconds, () => tell("fog.blown"));
}
