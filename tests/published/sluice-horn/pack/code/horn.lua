include("clock")
Horn = {}
function Horn.blow(who)
  local horn = node("sluice_horn")
  horn:move(0, 0, 0)
end
