local boiler = {}
function boiler.start(with)
  on("tar_boiler.stir", function(who) play_sound("tar_bubble", "tar_kettle") log(with.name) end)
end
return boiler
