export { CONTOUR_HZ, equalLoudnessDb, quieterBalanceDb } from './equal-loudness';
export { placeOf, placePowers, placeResponseDb, PLACES, unheardRanges, type Place, type PlaceId } from './places';
