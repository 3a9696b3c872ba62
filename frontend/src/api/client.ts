import createClient, { type FetchOptions } from "openapi-fetch";
import { patient } from "./patience";
import { random } from "./random";
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

/** Names this page for the server: of one page only the newest of its questions counts, whatever another one asks. */
const WINDOW = random();

const ask = patient((request) => fetch(request));

/** What goes with every change, and who hears that the browser is not known any more; set where people sign in. */
const signedIn = { token: "", lost: () => {} };

export function signWith(token: string, lost: () => void): void {
  Object.assign(signedIn, { token, lost });
}

export const api = createClient<paths>({
  baseUrl: "/",
  fetch: async (request) => {
    if (signedIn.token && request.method !== "GET") request.headers.set("X-CSRFToken", signedIn.token);
    request.headers.set("Drelo-Window", WINDOW);
    const answer = await ask(request);
    // A wrong password is answered so, too; there is nobody to lose then.
    if (answer.status === 401 && !request.url.endsWith("/api/sign-in")) signedIn.lost();
    return answer;
  },
}) as unknown as Client;

/** What the server said no to, in words for the maker. */
export class Refused extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly field: string,
    readonly bench: Bench | null,
    readonly superseded: boolean,
    /** What somebody else has changed meanwhile of that which was to be changed. */
    readonly collision: readonly Schemas["Told"][] = [],
    /** What was to be made of it, and who has changed it. */
    readonly mine: readonly Schemas["Told"][] = [],
    readonly by: string | null = null,
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
  const problem = answer.error as (Partial<Problem> & Partial<Schemas["ConflictProblem"]>) | undefined;
  throw new Refused(
    problem?.detail ?? `The request failed (${answer.response.status}).`,
    answer.response.status,
    problem?.field ?? "",
    problem?.bench ?? null,
    problem?.type === "/problems/superseded",
    problem?.collision ?? [],
    problem?.mine ?? [],
    problem?.by ?? null,
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

/** A piece from an archive, or of a recipe with the files that it names. */
export async function beginWithFiles(files: readonly File[]): Promise<Bench> {
  const [file] = files;
  if (files.length !== 1 || !file || !/\.zip$/i.test(file.name)) return beginWithRecipe(files);
  try {
    return await data(
      api.POST("/api/pieces/from-archive", {
        body: { file: file.name },
        bodySerializer: () => {
          const form = new FormData();
          form.append("file", file);
          return form;
        },
      }),
    );
  } catch (error) {
    // A ZIP without a piece may hold a recipe.
    if (error instanceof Refused && error.field === "kind") return beginWithRecipe(files);
    throw error;
  }
}

async function beginWithRecipe(files: readonly File[]): Promise<Bench> {
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
