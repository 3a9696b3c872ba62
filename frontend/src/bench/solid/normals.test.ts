import { expect, test } from "vitest";

import { flatNormals, UNIT } from "./normals";

const each = (corner: number[]) => [...corner, 0, ...corner, 0, ...corner, 0];

test("every corner has the normal of its triangle", () => {
  const level = [0, 0, 1, 4, 0, 1, 0, 4, 1];
  const upright = [0, 0, 0, 0, 0, 2, 0, 3, 0];
  const slope = [0, 0, 0, 1, 0, 1, 0, 1, 0];
  const normals = [...flatNormals(new Float32Array([...level, ...upright, ...slope]))];
  expect(normals.slice(0, 12)).toEqual(each([0, 0, UNIT]));
  expect(normals.slice(12, 24)).toEqual(each([-UNIT, 0, 0]));
  expect(normals.slice(24)).toEqual(each([-90, 0, 90]));
});

test("a wall of no height faces to the right of the way along it", () => {
  const north = [2, 0, 1, 2, 5, 1, 2, 5, 1];
  const back = [2, 0, 1, 2, 5, 1, 2, 0, 1];
  const normals = [...flatNormals(new Float32Array([...north, ...back]))];
  expect(normals).toEqual([...each([UNIT, 0, 0]), ...each([UNIT, 0, 0])]);
});

test("a triangle that is a point has no normal, and nothing has none", () => {
  expect([...flatNormals(new Float32Array(9).fill(3))]).toEqual(new Array(12).fill(0));
  expect(flatNormals(new Float32Array())).toHaveLength(0);
});
