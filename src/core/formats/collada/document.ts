import { DOMParser, type Element, ParseError } from '@xmldom/xmldom';
import { isZip, unzip } from '../archive';
import { DEEPEST, type InputFile, ReadError, type ReadLimits, printable } from '../errors';
import { NumberScanner, textOf, wordsOf } from '../text';

/** How deep elements may stand in one another: nodes do, and what describes them hangs below. */
const DEEPEST_ELEMENT = DEEPEST + 32;

/** A COLLADA file opened: its tree, every element by its id, and the files that came along. */
export class ColladaDocument {
  readonly byId = new Map<string, Element>();
  constructor(
    readonly name: string,
    readonly root: Element,
    readonly siblings: readonly InputFile[],
    readonly limits: ReadLimits,
  ) {
    const stack: { e: Element; depth: number }[] = [{ e: root, depth: 0 }];
    while (stack.length > 0) {
      const { e, depth } = stack.pop() as { e: Element; depth: number };
      if (depth > DEEPEST_ELEMENT) this.fail(e, `its elements are nested more than ${DEEPEST_ELEMENT} deep`);
      const id = e.getAttribute('id');
      if (id && !this.byId.has(id)) this.byId.set(id, e);
      for (const c of kids(e)) stack.push({ e: c, depth: depth + 1 });
    }
  }

  fail(e: Element | null, what: string, advice = 'Export it again.'): never {
    const line = (e as unknown as { lineNumber?: number } | null)?.lineNumber;
    throw new ReadError(this.name, `${line ? `line ${line}: ` : ''}${what}`, advice);
  }

  /** The element that a #reference names; null where it is missing or points outside the file. */
  refer(reference: string | null): Element | null {
    if (!reference) return null;
    let id = reference.trim();
    if (!id.startsWith('#')) {
      const hash = id.indexOf('#');
      if (hash > 0) return null;
    } else {
      id = id.slice(1);
    }
    try {
      return this.byId.get(id) ?? this.byId.get(decodeURIComponent(id)) ?? null;
    } catch {
      return this.byId.get(id) ?? null;
    }
  }

  need(reference: string | null, from: Element, what: string): Element {
    return (
      this.refer(reference) ??
      this.fail(
        from,
        `<${from.tagName}> names ${what} “${printable(reference ?? '', 40)}”, which is not there`,
      )
    );
  }

  /**
   * The numbers of an element's text. Throws where one is no finite number, or there are more than the file
   * could hold.
   */
  numbers(e: Element, expected?: number): Float64Array {
    const text = textIn(e);
    if (expected !== undefined && (!Number.isInteger(expected) || expected < 0 || expected > text.length))
      this.fail(e, `<${e.tagName}> announces ${expected} numbers, more than its text can hold`);
    let out = new Float64Array(expected ?? Math.min(text.length, 64));
    let n = 0;
    const scan = new NumberScanner(text);
    for (let x = scan.next(); x !== undefined; x = scan.next()) {
      if (!Number.isFinite(x))
        this.fail(e, `<${e.tagName}> holds something that is not a finite number, after ${n} numbers`);
      if (n === out.length) {
        if (expected !== undefined) break;
        const grown = new Float64Array(Math.max(64, out.length * 2));
        grown.set(out);
        out = grown;
      }
      out[n++] = x;
    }
    if (expected !== undefined && n < expected)
      this.fail(e, `<${e.tagName}> announces ${expected} numbers and holds ${n}`);
    return out.subarray(0, n);
  }

  /** Exactly n numbers of an element. */
  exactly(e: Element, n: number): number[] {
    const out = this.numbers(e);
    if (out.length !== n) this.fail(e, `<${e.tagName}> holds ${out.length} numbers where ${n} are needed`);
    return Array.from(out);
  }
}

/** Elements by what stands in one of their attributes; the first counts where several say the same. */
export class NamedElements {
  private readonly byAttribute = new Map<string, Map<string, Element>>();
  constructor(private readonly elements: readonly Element[]) {}

  by(attribute: string, name: string): Element | undefined {
    let index = this.byAttribute.get(attribute);
    if (!index) {
      index = new Map();
      for (const e of this.elements) {
        const said = e.getAttribute(attribute);
        if (said !== null && !index.has(said)) index.set(said, e);
      }
      this.byAttribute.set(attribute, index);
    }
    return index.get(name);
  }
}

/** The elements directly under one, of a tag where one is given. */
export function kids(e: Element, tag?: string): Element[] {
  const out: Element[] = [];
  for (let c = e.firstChild; c; c = c.nextSibling)
    if (c.nodeType === 1 && (tag === undefined || (c as Element).localName === tag)) out.push(c as Element);
  return out;
}

/** The first of them; null where there is none. */
export const kid = (e: Element | null, tag: string): Element | null => (e ? (kids(e, tag)[0] ?? null) : null);

/** The first element down a path of tags. */
export function down(e: Element | null, ...tags: string[]): Element | null {
  let at = e;
  for (const t of tags) at = kid(at, t);
  return at;
}

/** All descendants with a tag, in document order. */
export function all(e: Element, tag: string): Element[] {
  const out: Element[] = [];
  const walk = (x: Element) => {
    for (const c of kids(x)) {
      if (c.localName === tag) out.push(c);
      walk(c);
    }
  };
  walk(e);
  return out;
}

/** The text of an element; empty where there is none. */
export function textIn(e: Element | null): string {
  if (!e) return '';
  let out = '';
  for (let c = e.firstChild; c; c = c.nextSibling)
    if (c.nodeType === 3 || c.nodeType === 4) out += (c as unknown as { data: string }).data;
  return out;
}

/** The text of an element cut at white space. */
export const words = (e: Element | null): string[] => wordsOf(textIn(e));

const isDae = (f: InputFile) => /\.(dae|xml)$/i.test(f.name);

/**
 * Opens a .dae, or the .dae inside a .zae: the one that its manifest names, else the first. Throws {@link
 * ReadError}.
 */
export function openCollada(files: readonly InputFile[], limits: ReadLimits): ColladaDocument {
  const flat = files.flatMap((f) => (isZip(f.bytes) ? unzip(f, limits) : [f]));
  const manifest = flat.find((f) => /(^|\/)manifest\.xml$/i.test(f.name));
  let main: InputFile | undefined;
  if (manifest) {
    const said = parse(manifest, limits);
    let path = (textIn(kid(said, 'dae_root')) || textIn(said)).trim();
    try {
      path = decodeURIComponent(path);
    } catch {
      /* a stray % stands for itself */
    }
    path = path.replace(/^\.\//, '').replace(/#.*$/, '').toLowerCase();
    main = flat.find((f) => isDae(f) && f.name.toLowerCase().endsWith(path) && path !== '');
  }
  main ??= flat.find((f) => /\.dae$/i.test(f.name)) ?? flat.find((f) => isDae(f) && f !== manifest);
  if (!main)
    throw new ReadError(
      files[0]?.name ?? 'nothing',
      'there is no .dae among the files',
      'Choose a .dae or a .zae.',
    );
  const root = parse(main, limits);
  if (root.localName !== 'COLLADA')
    throw new ReadError(
      main.name,
      `the file is XML but not COLLADA: it begins with <${printable(root.tagName, 30)}>`,
      'Choose a COLLADA 1.4.1 or 1.5 file.',
    );
  const version = root.getAttribute('version') ?? '';
  if (!/^1\.[45]/.test(version))
    throw new ReadError(
      main.name,
      `the file is COLLADA ${printable(version, 12) || 'without a version'}`,
      'Export it as COLLADA 1.4.1 or 1.5.',
    );
  return new ColladaDocument(
    main.name,
    root,
    flat.filter((f) => f !== main),
    limits,
  );
}

/** What is wrong with XML, by what the parser's words are about. */
const FAULTS: readonly (readonly [RegExp, string])[] = [
  [/entity|&/i, 'it names an entity that it does not define'],
  [/ending tag|mismatch|not match|unmatched|close tag/i, 'an element is closed under another name'],
  [/unclosed|not closed|end of (file|input|stream)|EOF|incomplete|missing end/i, 'an element is not closed'],
  [/attribute|quot|value/i, 'an attribute is not written as one'],
  [/doctype|DTD|comment|CDATA|instruction/i, 'a part that is no element is not written as one'],
  [/tag|element|root/i, 'an element is not written as one'],
  [/char|invalid|illegal/i, 'a letter stands where none may'],
];

const faultOf = (said: string): string =>
  FAULTS.find(([words]) => words.test(said))?.[1] ?? 'it breaks off in the middle';

/** Whether a document type brings declarations of its own: a bracket before its end. */
function hasInternalSubset(text: string): boolean {
  const at = text.indexOf('<!DOCTYPE');
  if (at < 0) return false;
  const bracket = text.indexOf('[', at);
  const end = text.indexOf('>', at);
  return bracket >= 0 && (end < 0 || bracket < end);
}

function parse(file: InputFile, limits: ReadLimits): Element {
  const text = textOf(file, limits);
  if (text.includes('<!ENTITY') || hasInternalSubset(text))
    throw new ReadError(
      file.name,
      'it defines entities of its own',
      'Export it without a document type; COLLADA needs none.',
    );
  let open = 0;
  // A parser that keeps its place on a stack is asked first how deep it would have to go.
  for (
    let i = text.indexOf('<'), seen = 0;
    i >= 0 && seen < 2_000_000;
    i = text.indexOf('<', i + 1), seen++
  ) {
    const c = text.charCodeAt(i + 1);
    if (c === 33 || c === 63) continue;
    if (c === 47) {
      open--;
    } else {
      const end = text.indexOf('>', i);
      if (end < 0) break;
      if (text.charCodeAt(end - 1) !== 47) open++;
    }
    if (open > DEEPEST_ELEMENT)
      throw new ReadError(
        file.name,
        `its elements are nested more than ${DEEPEST_ELEMENT} deep`,
        'Export it again.',
      );
  }
  try {
    const found: string[] = [];
    const document = new DOMParser({
      onError: (level: string, message: string) => {
        if (level !== 'warning') {
          found.push(message);
          throw new ParseError(message);
        }
      },
    }).parseFromString(text.replace(/^\uFEFF/, ''), 'text/xml');
    if (!document.documentElement) throw new ParseError(found[0] ?? 'no element');
    return document.documentElement;
  } catch (error) {
    const said = String(error instanceof Error ? error.message : error);
    const line = /line[: ]+(\d+)|@#\[line:(\d+)/.exec(said);
    throw new ReadError(
      file.name,
      `the file is not sound XML${line ? ` (line ${line[1] ?? line[2]})` : ''}: ${faultOf(said.split('\n')[0])}`,
      'It was cut off or edited by hand; export it again.',
    );
  }
}
