import { Signal } from "../ui/signal";

/** The flat view is to show a place of the sheet, mm. */
export const focusOn = new Signal<{ x: number; y: number; radius: number }>();
/** What comes to the sheet next is to be brought into view as a whole. */
export const fitNext = new Signal();
