export { MessagePage } from './message-page';
export { SongList, type SongSummary } from './song-list';
export { DocumentPage } from './document-page';
