/**
 * Where the numbers of a section lie in a kernel's memory, in pairs of doubles: one for each of the two lanes (left and right, or
 * mid and side). The compiled kernel, `assembly/kernel.ts`, holds the same figures in bytes.
 */
export const LANES = 2;
/** Doubles from one section to the next. */
export const SECTION_STRIDE = 64;
/** b0, b1, b2, a1, a2: what the section computes while it rests, in direct form II. */
export const DIRECT_COEFFICIENTS = 5;
/** Two numbers of memory: of the direct form while the section rests, of the integrators while it moves. */
export const STATES_AT = DIRECT_COEFFICIENTS * LANES;
export const EASED_AT = STATES_AT + 2 * LANES;
/** g, k, m0, m1, m2 of a state-variable section. */
export const PARAMETERS = 5;
/** One-pole low-passes in a row that each parameter is eased through. */
export const EASING_STAGES = 3;
export const TARGETS_AT = EASED_AT + EASING_STAGES * PARAMETERS * LANES;
/** The parameters at the beginning of the step that is under way. */
export const STARTS_AT = TARGETS_AT + PARAMETERS * LANES;
/** Frames from one step of the easing to the next; between them the parameters move along straight lines. */
export const EASING_STEP = 16;

/** Frames that a kernel takes at a time, at most. */
export const MAX_BLOCK = 512;
/** What is smaller than this in the memory of a section is taken for nothing. */
export const SILENCE = 1e-30;
