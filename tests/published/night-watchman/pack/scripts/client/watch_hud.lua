local hud = {}
function hud.show() show_text("watch.title") end
return hud
