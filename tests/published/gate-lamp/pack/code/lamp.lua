Lamp = {}
function Lamp.light() local l = node("gate_lamp") end
