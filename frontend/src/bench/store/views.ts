import { leave } from "../left";
import { recalled, remember } from "../remembered";
import type { Views, Slice } from "./state";
import { DOWN } from "./tools";

/** What is looked at only for a while. */
export const NOT_LOOKING = { wipe: null, compared: null, spot: null } as const;

export const views: Slice<Views> = (set, get) => ({
  ...NOT_LOOKING,
  stop: "Raise",
  hover: null,
  picked: [],
  pointer: null,
  hint: null,
  underlay: recalled("underlay", 0.35),
  darker: recalled("darker", false),
  setStop: (stop) => {
    leave(get().piece?.id ?? "", { stop });
    set({ stop, ...NOT_LOOKING, ...DOWN, area: get().area });
  },
  setHover: (hover) => get().hover !== hover && set({ hover }),
  pick: (id, more) =>
    set(({ picked }) => {
      if (id === null) return { picked: more ? picked : [] };
      if (!more) return { picked: [id] };
      return { picked: picked.includes(id) ? picked.filter((p) => p !== id) : [...picked, id] };
    }),
  pickAll: (picked) => set({ picked }),
  setHint: (hint) => get().hint !== hint && set({ hint }),
  setPointer: (pointer) => set({ pointer }),
  setUnderlay: (underlay) => {
    set({ underlay });
    remember("underlay", underlay);
  },
  setDarker: (darker) => {
    set({ darker });
    remember("darker", darker);
  },
  setWipe: (wipe, compared) => set(compared === undefined ? { wipe } : { wipe, compared }),
  setSpot: (spot) => set({ spot }),
});
