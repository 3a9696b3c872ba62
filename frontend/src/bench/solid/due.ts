/** Solids that were asked for and have not come. What the hand waits for goes before what may come a little later. */
let due = 0;
let waiting: (() => void)[] = [];

/** Counts a solid as due until its promise settles. */
export async function whileDue<T>(solid: Promise<T>): Promise<T> {
  due += 1;
  try {
    return await solid;
  } finally {
    due -= 1;
    if (!due) {
      for (const go of waiting) go();
      waiting = [];
    }
  }
}

/** Resolves once no solid is due, or after so many ms. */
export function solidsFirst(most: number): Promise<void> {
  if (!due) return Promise.resolve();
  return new Promise((resolve) => {
    waiting.push(resolve);
    setTimeout(resolve, most);
  });
}

/** Whether any solid was asked for and has not come. */
export const isDue = () => due > 0;
