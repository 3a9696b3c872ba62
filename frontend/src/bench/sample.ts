import type { Bench, Region } from "../api/client";

/** A region of tests; only what is looked at there is real. */
export const region = (id: string, change: Partial<Region> = {}): Region =>
  ({
    id,
    name: `Region ${id}`,
    area: 10,
    height: 1,
    filament: "moss",
    left_out: false,
    path: "M0 0H5V5H0Z",
    box: [0, 0, 5, 5],
    mark: { anchor: [2, 2], box: [0, 0, 5, 5] },
    picture: null,
    pen: null,
    traced_in: null,
    drawn: null,
    ...change,
  }) as Region;

/** A piece with these regions, as the server would send it. */
export const sampleBench = (regions: readonly Region[], revision = 1): Bench =>
  ({
    piece: {
      id: "p",
      name: "Pear",
      revision,
      can_undo: revision > 1,
      can_redo: false,
      updated: "2026-01-01T00:00:00+00:00",
      document: {
        pictures: [],
        drawn: [],
        form: "relief",
        base: { shape: "rounded", thickness: 2, filament: "cream" },
        filaments: [
          { id: "moss", name: "Moss", colour: "#4a7a4a" },
          { id: "cream", name: "Cream", colour: "#f0e8d0" },
        ],
        layer: 0.2,
        units: "mm",
      },
    },
    flat: {
      width: 60,
      height: 40,
      things: [],
      underlays: [],
      areas: [],
      remarks: [],
      base_path: "M0 0H60V40H0Z",
      base_box: [0, 0, 60, 40],
      regions,
    },
  }) as unknown as Bench;
