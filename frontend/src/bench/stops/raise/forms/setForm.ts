import type { Document, Edit } from "../../../../api/client";
import { useBench } from "../../../store";

type SetForm = Extract<Edit, { do: "set-form" }>;

const set = (change: Omit<SetForm, "do">): Edit => ({ do: "set-form", ...change });
export const commit = (change: Omit<SetForm, "do">) => useBench.getState().commit(set(change));
/** Changes numbers of a form as they stand when the changes before are made. */
export const commitNumbers = <K extends Document["form"]>(
  form: K,
  shown: Document[K],
  change: Partial<Document[K]>,
) => useBench.getState().commit((document) => set({ [form]: { ...shown, ...document[form], ...change } }));
export const preview = (change: Omit<SetForm, "do">) => useBench.getState().previewEdit(set(change));
