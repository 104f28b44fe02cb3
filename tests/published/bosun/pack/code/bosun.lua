deed("pipe_aboard", function(who) hear("bosun_pipe") end)
