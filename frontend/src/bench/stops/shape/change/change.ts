import { type Edit } from "../../../../api/client";
import { useBench } from "../../../store";

export const say = (edit: Edit) => useBench.getState().commit(edit);
