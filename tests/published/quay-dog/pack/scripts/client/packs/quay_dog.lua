local dog = {}
function dog.bark(times)
  on("tide.turned.dog", function() show_text("quay_dog.woof") end)
end
return dog
