/** What the chooser on the pieces page and on the bench offers. */
export const DRAWINGS = ".svg,.dxf,image/svg+xml";
export const RECIPES = ".json,.zip";

const ends = (file: File, pattern: RegExp) => pattern.test(file.name.toLowerCase());

/** A vector drawing, as its name or its type says. */
export const isDrawing = (file: File): boolean => ends(file, /\.(svg|dxf)$/) || file.type === "image/svg+xml";

/** Whether files that came together are a recipe and its art. */
export const areRecipe = (files: readonly File[]): boolean => files.some((f) => ends(f, /\.(json|zip)$/));

/** A piece's name from a file's. */
export function titleOf(file: File): string {
  const words = file.name
    .replace(/\.[^.]*$/, "")
    .replace(/[-_\s]+/g, " ")
    .trim()
    .slice(0, 120);
  return words ? words.charAt(0).toUpperCase() + words.slice(1) : "New piece";
}
