export { channelLetter, CHANNEL_NAMES, MONO_REASON } from './channels';
export { cornerMeaning, FAMILY_NAMES, hasRipple, hasStopband, slopeExample } from './families';
export { liftOf, Post } from './post';
export { typeName, TYPE_NAMES } from './type-names';
export { INK_DASHES, LineSample } from './inks';
