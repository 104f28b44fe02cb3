-- spring tides
local spring = {}
function spring.watch(days)
  play("surge")
end
return spring
