/** What stands beside the shared axis on its left, in every row of the page: names need the room, px. */
export const HEADS_WIDTH = 256;
