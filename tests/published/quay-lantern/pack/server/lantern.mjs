export function lightLantern() {
  return 1;
}
