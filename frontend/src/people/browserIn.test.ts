import { expect, test } from "vitest";

import { browserIn } from "./browserIn";

test("a browser is called as a person would", () => {
  const chrome =
    "Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/140.0 Safari/537.36";
  expect(browserIn(chrome)).toBe("Chrome on Linux");
  expect(browserIn(`${chrome} Edg/140.0`)).toBe("Edge on Linux");
  expect(browserIn("Mozilla/5.0 (iPhone; CPU iPhone OS 19_0 like Mac OS X) Version/19.0 Safari/604.1")).toBe(
    "Safari on iPhone",
  );
  expect(browserIn("curl/8")).toBe("A program");
});
