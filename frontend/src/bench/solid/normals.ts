/** What stands for 1 in a normal. */
export const UNIT = 127;

/**
 * The normal of every corner of loose triangles, nine numbers a triangle: that of its triangle, as four small whole
 * numbers of which the last is 0. A triangle without area has the level one to the right of its first side: it is a wall
 * of no height. The solid is new at every height that is tried, so that the time this takes is felt.
 */
export function flatNormals(corners: Float32Array): Int8Array {
  const at = (i: number) => corners[i] ?? 0;
  const normals = new Int8Array((corners.length / 3) * 4);
  for (let i = 0, out = 0; i + 8 < corners.length; i += 9, out += 12) {
    const x = at(i);
    const y = at(i + 1);
    const z = at(i + 2);
    const ux = at(i + 3) - x;
    const uy = at(i + 4) - y;
    const uz = at(i + 5) - z;
    const vx = at(i + 6) - x;
    const vy = at(i + 7) - y;
    const vz = at(i + 8) - z;
    let nx = uy * vz - uz * vy;
    let ny = uz * vx - ux * vz;
    const nz = ux * vy - uy * vx;
    if (!nx && !ny && !nz) [nx, ny] = [uy, -ux];
    const scale = UNIT / (Math.sqrt(nx * nx + ny * ny + nz * nz) || 1);
    for (let k = out; k < out + 12; k += 4) {
      normals[k] = Math.round(nx * scale);
      normals[k + 1] = Math.round(ny * scale);
      normals[k + 2] = Math.round(nz * scale);
    }
  }
  return normals;
}
