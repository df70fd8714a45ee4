/** What a track plays, and how sure that is, 0 to 1. */
export interface ProposedPart {
  part: string;
  sureness: number;
}

/**
 * Words of names of tracks and files, and the parts that they stand for; the first that fits. Short ones stand alone only. Common practice.
 * What is said in full is sure; what is short, or could be two things, less so.
 */
const NAMES: readonly [words: RegExp, part: string, sureness: number][] = [
  [/\b(kick|kik|bass ?drum|bassdrum)\b/, 'kick drum', 1],
  [/\b(bd|kd|kk)\b/, 'kick drum', 0.8],
  [/\b(snare|snr)\b/, 'snare drum', 1],
  [/\b(sd|sn)\b/, 'snare drum', 0.8],
  [/\b(hi ?hat|hihat|hat|hats|hh)\b/, 'hi-hat', 1],
  [/\b(over ?heads?|oh|ohs)\b/, 'overheads', 0.9],
  [/\b(cymbals?|ride|crash|cym)\b/, 'cymbals', 1],
  [/\b(floor ?toms?|rack ?toms?|toms?)\b/, 'toms', 1],
  [/\b(claps?)\b/, 'claps', 1],
  [/\b(shaker|tambourine|tamb|cabasa|maracas)\b/, 'shaker', 1],
  [/\b(congas?|bongos?|percussion|perc|cajon|djembe)\b/, 'percussion', 1],
  [/\b(frame ?drum|drums?|drum ?kit|kit)\b/, 'drums', 0.9],
  [/\b(double ?bass|upright ?bass|contrabass|kontrabass)\b/, 'double bass', 1],
  [/\b(sub ?bass|synth ?bass)\b/, 'synth bass', 1],
  [/\b(bass ?guitar|e ?bass|bass ?di|bass ?amp|bass)\b/, 'bass', 0.9],
  [/\b(b(ack(ing|ground)?)? ?(vox|voc|vocals?|voices?)|bgv|bvs?|choir|harmon(y|ies)|doubles?)\b/, 'backing voice', 0.9],
  [/\b(lead ?(vox|voc|vocals?|voices?)|ld ?vox|lv|lead ?sing(er)?)\b/, 'lead voice', 1],
  [/\b(vox|voc|vocals?|voice|singer|sing)\b/, 'lead voice', 0.8],
  [/\b(ac(oustic)? ?(gtr|guitar)|a ?gtr|agt|nylon)\b/, 'acoustic guitar', 1],
  [/\b(el(ectric)? ?(gtr|guitar)|e ?gtr|egt|lead ?(gtr|guitar)|rhythm ?(gtr|guitar))\b/, 'electric guitar', 1],
  [/\b(guitars?|gtrs?|git)\b/, 'guitar', 0.9],
  [/\b(banjo|mandolin|ukulele|dulcimer|harp|zither)\b/, '$1', 1],
  [/\b(grand|piano|pno|upright)\b/, 'piano', 0.9],
  [/\b(rhodes|wurli|e ?piano|electric ?piano|ep)\b/, 'electric piano', 0.8],
  [/\b(organ|b3)\b/, 'organ', 0.9],
  [/\b(keys|keyboards?)\b/, 'keys', 0.8],
  [/\b(concertina|accordion|harmonium|harmonica)\b/, '$1', 1],
  [/\b(violins?|fiddle|vln)\b/, 'violin', 1],
  [/\b(violas?|vla)\b/, 'viola', 1],
  [/\b(cell(o|i)|vlc)\b/, 'cello', 1],
  [/\b(strings?|str)\b/, 'strings', 0.8],
  [/\b(flute|whistle|clarinet|oboe|bassoon|recorder)\b/, '$1', 1],
  [/\b(trumpets?|tpt)\b/, 'trumpet', 1],
  [/\b(trombones?|tbn)\b/, 'trombone', 1],
  [/\b(sax(ophone)?)\b/, 'saxophone', 1],
  [/\b(horns?|brass)\b/, 'horns', 0.8],
  [/\b(pads?)\b/, 'pad', 0.8],
  [/\b(synths?|syn)\b/, 'synth', 0.8],
  [/\b(room|ambien(ce|t)|far ?mic)\b/, 'room', 0.8],
  [/\b(fx|sfx|riser|sweep|effects?)\b/, 'effects', 0.7],
  [/\b(click|metronome|count)\b/, 'click', 0.8],
];

/** Words of a name: `03_LeadVox-L.take2` is “03 lead vox l take 2”. */
const wordsOf = (name: string): string =>
  name
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .replace(/([A-Za-z])(\d)/g, '$1 $2')
    .replace(/(\d)([A-Za-z])/g, '$1 $2')
    .replace(/[^A-Za-z0-9]+/g, ' ')
    .trim()
    .toLowerCase();

/** The part that a name speaks of; null where it says nothing. */
export function partFromName(name: string): ProposedPart | null {
  const words = wordsOf(name);
  for (const [pattern, part, sureness] of NAMES) {
    const found = pattern.exec(words);
    if (found) return { part: part === '$1' ? found[1] : part, sureness };
  }
  return null;
}
