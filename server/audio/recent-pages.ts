import { singleton } from '../singleton';
import { checksumOf, type PageFile } from './page-file';

/** What is asked for piece by piece is read and checked once: so many bytes of the pages that were asked for last are kept. */
const MOST_BYTES = 32 * 2 ** 20;

class RecentPages {
  private readonly pages = new Map<string, Uint8Array>();
  private bytes = 0;

  get(name: string): Uint8Array | undefined {
    const page = this.pages.get(name);
    if (page) this.put(name, page);
    return page;
  }

  /** Keeps a page as the one that was asked for last. */
  put(name: string, page: Uint8Array): void {
    this.forget(name);
    this.pages.set(name, page);
    this.bytes += page.length;
    for (const oldest of this.pages.keys()) {
      if (this.bytes <= MOST_BYTES) break;
      this.forget(oldest);
    }
  }

  private forget(name: string): void {
    this.bytes -= this.pages.get(name)?.length ?? 0;
    this.pages.delete(name);
  }
}

const recent = () => singleton('recent pages', () => new RecentPages());

/** A page that has been read and checked a moment ago, or is now; of a file whose checksums are not known nothing is kept. */
export async function recentPage(file: PageFile, page: number, read: () => Promise<Uint8Array>): Promise<Uint8Array> {
  const { checksums, path, bits } = file;
  if (checksums === null) return read();
  const name = `${path} ${page} ${bits} ${checksumOf(checksums, page)}`;
  const known = recent().get(name);
  if (known) return known;
  const bytes = await read();
  recent().put(name, bytes);
  return bytes;
}
