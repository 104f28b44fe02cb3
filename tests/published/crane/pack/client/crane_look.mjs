export function lookCrane() {}
