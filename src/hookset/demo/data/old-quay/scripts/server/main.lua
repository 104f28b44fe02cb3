-- Old Quay, server side.
local weigh_house = require("weigh_house")
local crane = require("quay.crane")

function start()
  weigh_house.open()
  crane.open(4)
end
