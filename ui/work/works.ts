import { bandsWork } from './bands/bands-work';
import { companyWork } from './company/company-work';
import { compareWork } from './compare/compare-work';
import { chainWork } from './chain/chain-work';
import { claimsWork } from './claims/claims-work';
import { earshotWork } from './earshot/earshot-work';
import { elsewhereWork } from './elsewhere/elsewhere-work';
import { endsWork } from './ends/ends-work';
import { eyesWork } from './eyes/eyes-work';
import { freezeWork } from './freeze/freeze-work';
import { historyWork } from './history/history-work';
import { imageWork } from './image/image-work';
import { landmarksWork } from './landmarks/landmarks-work';
import { overlapsWork } from './overlaps/overlaps-work';
import { passagesWork } from './passages/passages-work';
import { probeWork } from './probe/probe-work';
import { proofWork } from './proof/proof-work';
import { recordingsWork } from './recordings/recordings-work';
import { renderWork } from './render/render-work';
import { reuseWork } from './reuse/reuse-work';
import { suspectsWork } from './suspects/suspects-work';
import { tracksWork } from './tracks/tracks-work';
import { transportWork } from './transport/transport-work';
import { undoWork } from './undo/undo-work';
import { wholeRoomWork } from './whole-room/whole-room-work';
import type { Work } from './work';

/** Everything that one does with a song; panels stand in the side in this order. */
export const WORKS: readonly Work[] = [
  transportWork,
  undoWork,
  tracksWork,
  passagesWork,
  overlapsWork,
  wholeRoomWork,
  endsWork,
  suspectsWork,
  imageWork,
  compareWork,
  historyWork,
  reuseWork,
  companyWork,
  landmarksWork,
  probeWork,
  earshotWork,
  elsewhereWork,
  bandsWork,
  chainWork,
  claimsWork,
  eyesWork,
  recordingsWork,
  freezeWork,
  renderWork,
  proofWork,
];
