// Numbers in memory, by where they begin and which one it is. AssemblyScript.

// @ts-ignore: decorator
@inline export function n(at: usize, i: i32): i32 { return load<i32>(at + (<usize>i << 2)); }
// @ts-ignore: decorator
@inline export function put(at: usize, i: i32, v: i32): void { store<i32>(at + (<usize>i << 2), v); }
// @ts-ignore: decorator
@inline export function f(at: usize, i: i32): f64 { return load<f64>(at + (<usize>i << 3)); }
// @ts-ignore: decorator
@inline export function putF(at: usize, i: i32, v: f64): void { store<f64>(at + (<usize>i << 3), v); }
