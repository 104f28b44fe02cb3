function light(strength) {
  handle("lamp.light", () => { find("lock_lamp").glow = strength; });
  play("lamp_hum", "lock_lamp");
}
export function lightLamp() { light(1.0); }
export function dimLamp() { light(0.4); }
