import { MediaQuery } from "svelte/reactivity";

/** Holds where the page is as narrow as a phone. */
export const narrow = new MediaQuery("max-width: 640px");
