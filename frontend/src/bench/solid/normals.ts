/**
 * The normal of every corner of loose triangles, nine numbers a triangle: that of its triangle. A triangle without area
 * has none. The solid is new at every height that is tried, so that the time this takes is felt.
 */
export function flatNormals(corners: Float32Array): Float32Array {
  const at = (i: number) => corners[i] ?? 0;
  const normals = new Float32Array(corners.length);
  for (let i = 0; i + 8 < corners.length; i += 9) {
    const x = at(i);
    const y = at(i + 1);
    const z = at(i + 2);
    const ux = at(i + 3) - x;
    const uy = at(i + 4) - y;
    const uz = at(i + 5) - z;
    const vx = at(i + 6) - x;
    const vy = at(i + 7) - y;
    const vz = at(i + 8) - z;
    const nx = uy * vz - uz * vy;
    const ny = uz * vx - ux * vz;
    const nz = ux * vy - uy * vx;
    const length = Math.sqrt(nx * nx + ny * ny + nz * nz) || 1;
    for (let k = i; k < i + 9; k += 3) {
      normals[k] = nx / length;
      normals[k + 1] = ny / length;
      normals[k + 2] = nz / length;
    }
  }
  return normals;
}
