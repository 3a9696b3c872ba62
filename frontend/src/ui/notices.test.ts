import { expect, test } from "vitest";

import { withNotice, type Notice } from "./notices";

let last = 0;
const notice = (kind: Notice["kind"], text: string): Notice => ({ id: ++last, kind, text });
const texts = (list: readonly Notice[]) => list.map((n) => n.text);

test("nothing good stands beside a newer error", () => {
  const list = withNotice([notice("said", "Exported.")], notice("refused", "The disk is full."));
  expect(texts(list)).toEqual(["The disk is full."]);
});

test("news do not push out an error that is not read yet", () => {
  let list: Notice[] = [notice("refused", "The disk is full.")];
  for (const text of ["one", "two", "three", "four"]) list = withNotice(list, notice("said", text));
  expect(texts(list)).toEqual(["The disk is full.", "three", "four"]);
});

test("the newest of many errors is always there", () => {
  let list: Notice[] = [];
  for (const text of ["a", "b", "c", "d"]) list = withNotice(list, notice("refused", text));
  expect(texts(list)).toEqual(["b", "c", "d"]);
});

test("the same is not said twice at once", () => {
  expect(
    texts(withNotice([notice("said", "Saved."), notice("said", "b")], notice("said", "Saved."))),
  ).toEqual(["b", "Saved."]);
});
