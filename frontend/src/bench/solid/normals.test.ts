import { expect, test } from "vitest";

import { flatNormals } from "./normals";

test("every corner has the normal of its triangle, of length 1", () => {
  const level = [0, 0, 1, 4, 0, 1, 0, 4, 1];
  const upright = [0, 0, 0, 0, 0, 2, 0, 3, 0];
  const normals = [...flatNormals(new Float32Array([...level, ...upright]))];
  expect(normals.slice(0, 9)).toEqual([0, 0, 1, 0, 0, 1, 0, 0, 1]);
  expect(normals.slice(9).map((n) => n + 0)).toEqual([-1, 0, 0, -1, 0, 0, -1, 0, 0]);
});

test("a triangle without area has no normal, and nothing has none", () => {
  expect([...flatNormals(new Float32Array(9).fill(3))]).toEqual(new Array(9).fill(0));
  expect(flatNormals(new Float32Array())).toHaveLength(0);
});
