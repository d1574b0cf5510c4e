// What building and walking share: how nodes and packets lie in memory.
//
// Node, 128 bytes:   f32x4 minX@0 maxX@16 minY@32 maxY@48 minZ@64 maxZ@80, u32 child[4]@96
//   child with high bit clear = address of a node; high bit set = leaf: packet address | packet count (1..15)
// Packet, 208 bytes: f32x4 v0.xyz@0, e1.xyz@48 (v0-v1), e2.xyz@96 (v2-v0), n.xyz@144 (e2 x e1), i32x4 triangle id@192
// Ray, 32 bytes:     ox oy oz tMin dx dy dz tMax
// Hit, 16 bytes:     t u v id (i32, -1 = nothing)

// @ts-ignore: decorator
@inline
export const LEAF: u32 = 0x80000000;
// @ts-ignore: decorator
@inline
export const FAR: f32 = 1e30;
// @ts-ignore: decorator
@inline
export const NODE: usize = 128;
// @ts-ignore: decorator
@inline
export const PACKET: usize = 208;
