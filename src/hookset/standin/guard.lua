-- Keeps scripts from running for ever. Runs before anything else; gives the function that calls others under guard.
local steps = ...
local getinfo, sethook = debug.getinfo, debug.sethook

-- Scripts have a number of steps for each call, counted a thousand at a time. Once they are used up every further
-- step fails, so that catching the error does not help. Catching costs steps, too: scripts that fail and catch at
-- the bottom of the stack leave no room there for the counting.
local used = 0
local this_file = getinfo(1, "S").short_src
local too_many = "too many steps: the script does not come to an end"

local function count()
  used = used + 1000
  local info = getinfo(2, "Sl")
  if used < steps or info.short_src == this_file then return end
  sethook(count, "", 1)
  error(info.short_src .. ":" .. info.currentline .. ": " .. too_many, 0)
end

local catch, catch_with = pcall, xpcall
function pcall(...)
  used = used + 100
  if used >= steps then error(too_many, 2) end
  return catch(...)
end
function xpcall(...)
  used = used + 100
  if used >= steps then error(too_many, 2) end
  return catch_with(...)
end

local depth = 0
local function guarded(fn, ...)
  if depth == 0 then
    used = 0
    sethook(count, "", 1000)
  end
  depth = depth + 1
  local results = table.pack(catch(fn, ...))
  depth = depth - 1
  if depth == 0 then sethook() end
  if not results[1] then
    local problem = results[2]
    error(type(problem) == "string" and problem or "an error that is no text", 0)
  end
  return table.unpack(results, 2, results.n)
end

return guarded
