export { SongStrip } from './song-strip';
