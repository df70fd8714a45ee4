import { readFile } from 'node:fs/promises';
import path from 'node:path';
import { marked } from 'marked';
import { DocumentPage } from '@/ui/pages/document/document-page';

export const metadata = { title: 'How clearance is measured · Orvid' };

/** `docs/clearance.md` as a page: what the figures of the mix mean. */
export default async function ClearancePage() {
  const text = await readFile(path.join(process.cwd(), 'docs', 'clearance.md'), 'utf8');
  return <DocumentPage html={await marked.parse(text)} />;
}
