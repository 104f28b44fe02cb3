local sock = {}
function sock.fly() log("it flies") end
function sock.ring_in_fog() log("ding") end
return sock
