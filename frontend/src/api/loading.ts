/** How often a part of the page is asked for, and how long between, ms. */
const TRIES = 30;
const PAUSE = 1_000;

/** A part of the page that is loaded late, asked for again while the server does not answer. */
export const patiently =
  <T>(load: () => Promise<T>, tries = TRIES, pause = PAUSE): (() => Promise<T>) =>
  async () => {
    for (let left = tries - 1; ; left--) {
      try {
        return await load();
      } catch (error) {
        if (left <= 0) throw error;
        await new Promise((done) => setTimeout(done, pause));
      }
    }
  };
