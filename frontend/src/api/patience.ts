/** How long a request is sent again while the server says that it is busy, ms. */
const LONGEST = 30_000;
const USUAL_PAUSE = 1_000;

type Fetch = (request: Request) => Promise<Response>;

/**
 * A fetch that asks again while the server is busy or its database is started again: then nothing was changed, and the
 * server says when it is worth while to ask again.
 */
export function patient(fetch: Fetch, longest = LONGEST): Fetch {
  return async (request) => {
    const until = performance.now() + longest;
    for (;;) {
      const answer = await fetch(request.clone());
      const pause = pauseOf(answer);
      if (pause === null || performance.now() + pause > until) return answer;
      await rest(pause, request.signal);
    }
  };
}

function pauseOf(answer: Response): number | null {
  if (answer.status !== 503) return null;
  const told = answer.headers.get("Retry-After");
  if (told === null) return null;
  const seconds = Number(told);
  return Number.isFinite(seconds) ? seconds * 1000 : USUAL_PAUSE;
}

function rest(ms: number, signal: AbortSignal): Promise<void> {
  return new Promise((done, failed) => {
    const stop = () => {
      clearTimeout(timer);
      failed(signal.reason);
    };
    const timer = setTimeout(() => {
      signal.removeEventListener("abort", stop);
      done();
    }, ms);
    if (signal.aborted) stop();
    else signal.addEventListener("abort", stop, { once: true });
  });
}
