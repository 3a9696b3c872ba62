import createClient, { type FetchOptions } from "openapi-fetch";
import { patient } from "./patience";
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

/** What the server sends when all goes well, as its description says. */
type Sent<O> = O extends { responses: { 200: { content: { "application/json": infer T } } } } ? T : undefined;
type Answer<T> = { data?: T; error?: unknown; response: Response };
type Method = "get" | "post" | "put" | "patch" | "delete";
type PathOf<M extends Method> = {
  [P in keyof paths]: paths[P] extends Record<M, { responses: unknown }> ? P : never;
}[keyof paths];
type Call<M extends Method> = <P extends PathOf<M>>(
  path: P,
  ...init: Partial<FetchOptions<paths[P][M]>> extends FetchOptions<paths[P][M]>
    ? [init?: FetchOptions<paths[P][M]>]
    : [init: FetchOptions<paths[P][M]>]
) => Promise<Answer<Sent<paths[P][M]>>>;

/** The client library's own types of answers lose the lengths of tuples. */
type Client = {
  GET: Call<"get">;
  POST: Call<"post">;
  PUT: Call<"put">;
  PATCH: Call<"patch">;
  DELETE: Call<"delete">;
};

export const api = createClient<paths>({
  baseUrl: "/",
  fetch: patient((request) => fetch(request)),
}) as unknown as Client;

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

/** The data of an answer; throws Refused or Offline. */
export async function data<T>(call: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
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

/** The bytes of an answer that was asked for as an array buffer. */
export function bytes(call: Promise<Answer<undefined>>): Promise<ArrayBuffer> {
  return data(call as unknown as Promise<Answer<ArrayBuffer>>);
}

/** What is said of a picture that comes in: on which revision, where its middle goes, mm, whose place it takes. */
export type Wanted = {
  revision?: number;
  at?: readonly [number, number] | null;
  replaces?: string | null;
  units?: "mm" | "inch";
};

export function pictureForm(picture: File, { revision, at, replaces, units }: Wanted = {}): FormData {
  const form = new FormData();
  form.append("picture", picture);
  if (units) form.append("units", units);
  if (revision !== undefined) form.append("revision", String(revision));
  if (replaces) form.append("replaces", replaces);
  if (at) {
    form.append("x", String(at[0]));
    form.append("y", String(at[1]));
  }
  return form;
}

export async function beginWithPicture(picture: File, units: "mm" | "inch"): Promise<Bench> {
  return data(
    api.POST("/api/pieces/from-picture", {
      body: { picture: picture.name },
      bodySerializer: () => pictureForm(picture, { units }),
    }),
  );
}

export async function beginWithRecipe(files: readonly File[]): Promise<Bench> {
  return data(
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
