import { latePanel } from '../../kit/late/late';
import { chosenStrip } from '../../window/song/selection';
import type { Work } from '../work';
import { soloCompany, soloPair } from './solo';

const CompanyPanel = latePanel(async () => (await import('./company-panel')).CompanyPanel);

/** Other tracks beside the chosen one: their spectra on the bench, and hearing them together. */
export const companyWork: Work = {
  panel: { id: 'company', name: 'Company', digit: 4, Panel: CompanyPanel },
  commands: (desk) => [
    {
      id: 'solo-pair',
      name: 'Solo the track and its company’s first',
      key: { key: 's', alt: true },
      run: () => soloPair(desk, chosenStrip(desk).id),
    },
    {
      id: 'solo-company',
      name: 'Solo the track and all its company',
      run: () => soloCompany(desk, chosenStrip(desk).id),
    },
  ],
};
