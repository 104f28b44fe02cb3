-- A light at each mooring.
local lights = {}
function lights.start() log("the moorings are lit") end
return lights
