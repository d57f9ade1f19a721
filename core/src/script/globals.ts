/** Global names of Lua 5.4 that game scripts have (Lua 5.4 Reference Manual, §6), less what the prelude takes away. */
export const LUA_GLOBALS: ReadonlySet<string> = new Set(
  (
    '_G _VERSION assert coroutine error getmetatable ipairs load math next pairs pcall print rawequal rawget rawlen rawset ' +
    'select setmetatable string table tonumber tostring type utf8 xpcall'
  ).split(' '),
);
