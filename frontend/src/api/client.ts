import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Bench = Schemas["BenchOut"];
export type Piece = Schemas["PieceOut"];
export type Flat = Schemas["Flat"];
export type Region = Schemas["FlatRegion"];
export type Picture = Schemas["PlacedPicture-Output"];
export type Underlay = Schemas["Underlay"];
export type Edit = Schemas["EditRequest"]["edit"];
export type Problem = Schemas["Problem"];
export type TakeAway = Schemas["TakeAwayOut"];
export type Document = Piece["document"];
export type Filament = Document["filaments"][number];

export const api = createClient<paths>({ baseUrl: "/" });

/** What the server said no to, in words for the maker. */
export class Refused extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly field: string,
    readonly bench: Bench | null,
    readonly superseded: boolean,
  ) {
    super(message);
  }
}

/** The connection failed: nothing was decided. */
export class Offline extends Error {}

type Answer = { data?: unknown; error?: unknown; response: Response };

/**
 * The data of an answer; throws Refused or Offline. The caller names the schema: the client library's own type loses the
 * lengths of tuples.
 */
export async function data<T>(call: Promise<Answer>): Promise<T> {
  let answer: Answer;
  try {
    answer = await call;
  } catch (error) {
    if (error instanceof DOMException && error.name === "AbortError") throw error;
    throw new Offline("Drelo does not answer. Is it still running?");
  }
  if (answer.response.ok) return answer.data as T;
  const problem = answer.error as (Partial<Problem> & { bench?: Bench }) | undefined;
  throw new Refused(
    problem?.detail ?? `The request failed (${answer.response.status}).`,
    answer.response.status,
    problem?.field ?? "",
    problem?.bench ?? null,
    problem?.type === "/problems/superseded",
  );
}

/** What is said of a picture that comes in: on which revision, where its middle goes, mm, whose place it takes. */
export type Wanted = { revision?: number; at?: readonly [number, number] | null; replaces?: string | null };

export function pictureForm(picture: File, { revision, at, replaces }: Wanted = {}): FormData {
  const form = new FormData();
  form.append("picture", picture);
  if (revision !== undefined) form.append("revision", String(revision));
  if (replaces) form.append("replaces", replaces);
  if (at) {
    form.append("x", String(at[0]));
    form.append("y", String(at[1]));
  }
  return form;
}

export async function beginWithPicture(picture: File): Promise<Bench> {
  return data<Bench>(
    api.POST("/api/pieces/from-picture", {
      body: { picture: picture.name },
      bodySerializer: () => pictureForm(picture),
    }),
  );
}

export async function beginWithRecipe(files: readonly File[]): Promise<Bench> {
  return data<Bench>(
    api.POST("/api/pieces/from-recipe", {
      body: { files: files.map((file) => file.name) },
      bodySerializer: () => {
        const form = new FormData();
        for (const file of files) form.append("files", file);
        return form;
      },
    }),
  );
}
