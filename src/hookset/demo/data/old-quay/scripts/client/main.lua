-- Old Quay, on each player's machine.
local crane_view = require("quay.crane_view")

function start()
  crane_view.begin()
end
