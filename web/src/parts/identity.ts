export { letterOf } from '@plinket/core';

/**
 * Eight identity colours that stay apart with colour-vision deficiencies (Okabe and Ito 2008, “Color Universal Design”),
 * always shown together with the light's letter. The eighth is grey: black would be lost on the bench.
 */
const COLOURS = ['#e69f00', '#56b4e9', '#f0e442', '#cc79a7', '#009e73', '#d55e00', '#4f8fd6', '#a6a6a6'];

/** Colour of the light at a place in the order. */
export const colourOf = (index: number): string => COLOURS[index % COLOURS.length]!;
