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
      const { e: element, depth } = stack.pop() as { e: Element; depth: number };
      if (depth > DEEPEST_ELEMENT)
        this.fail(element, `its elements are nested more than ${DEEPEST_ELEMENT} deep`);
      const id = element.getAttribute('id');
      if (id && !this.byId.has(id)) this.byId.set(id, element);
      for (const kid of kids(element)) stack.push({ e: kid, depth: depth + 1 });
    }
  }

  fail(element: Element | null, what: string, advice = 'Export it again.'): never {
    const line = (element as unknown as { lineNumber?: number } | null)?.lineNumber;
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
  numbers(element: Element, expected?: number): Float64Array {
    const text = textIn(element);
    if (expected !== undefined && (!Number.isInteger(expected) || expected < 0 || expected > text.length))
      this.fail(element, `<${element.tagName}> announces ${expected} numbers, more than its text can hold`);
    let out = new Float64Array(expected ?? Math.min(text.length, 64));
    let count = 0;
    const scan = new NumberScanner(text);
    for (let x = scan.next(); x !== undefined; x = scan.next()) {
      if (!Number.isFinite(x))
        this.fail(
          element,
          `<${element.tagName}> holds something that is not a finite number, after ${count} numbers`,
        );
      if (count === out.length) {
        if (expected !== undefined) break;
        const grown = new Float64Array(Math.max(64, out.length * 2));
        grown.set(out);
        out = grown;
      }
      out[count++] = x;
    }
    if (expected !== undefined && count < expected)
      this.fail(element, `<${element.tagName}> announces ${expected} numbers and holds ${count}`);
    return out.subarray(0, count);
  }

  /** Exactly n numbers of an element. */
  exactly(element: Element, count: number): number[] {
    const out = this.numbers(element);
    if (out.length !== count)
      this.fail(element, `<${element.tagName}> holds ${out.length} numbers where ${count} are needed`);
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
      for (const element of this.elements) {
        const said = element.getAttribute(attribute);
        if (said !== null && !index.has(said)) index.set(said, element);
      }
      this.byAttribute.set(attribute, index);
    }
    return index.get(name);
  }
}

/** The elements directly under one, of a tag where one is given. */
export function kids(element: Element, tag?: string): Element[] {
  const out: Element[] = [];
  for (let node = element.firstChild; node; node = node.nextSibling)
    if (node.nodeType === 1 && (tag === undefined || (node as Element).localName === tag))
      out.push(node as Element);
  return out;
}

/** The first of them; null where there is none. */
export const kid = (element: Element | null, tag: string): Element | null =>
  element ? (kids(element, tag)[0] ?? null) : null;

/** The first element down a path of tags. */
export function down(element: Element | null, ...tags: string[]): Element | null {
  let at = element;
  for (const tag of tags) at = kid(at, tag);
  return at;
}

/** All descendants with a tag, in document order. */
export function all(element: Element, tag: string): Element[] {
  const out: Element[] = [];
  const walk = (otherElement: Element) => {
    for (const kid of kids(otherElement)) {
      if (kid.localName === tag) out.push(kid);
      walk(kid);
    }
  };
  walk(element);
  return out;
}

/** The text of an element; empty where there is none. */
export function textIn(element: Element | null): string {
  if (!element) return '';
  let out = '';
  for (let node = element.firstChild; node; node = node.nextSibling)
    if (node.nodeType === 3 || node.nodeType === 4) out += (node as unknown as { data: string }).data;
  return out;
}

/** The text of an element cut at white space. */
export const words = (element: Element | null): string[] => wordsOf(textIn(element));

const isDae = (file: InputFile) => /\.(dae|xml)$/i.test(file.name);

/**
 * Opens a .dae, or the .dae inside a .zae: the one that its manifest names, else the first. Throws {@link
 * ReadError}.
 */
export function openCollada(files: readonly InputFile[], limits: ReadLimits): ColladaDocument {
  const flat = files.flatMap((file) => (isZip(file.bytes) ? unzip(file, limits) : [file]));
  const manifest = flat.find((file) => /(^|\/)manifest\.xml$/i.test(file.name));
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
    main = flat.find((file) => isDae(file) && file.name.toLowerCase().endsWith(path) && path !== '');
  }
  main ??=
    flat.find((file) => /\.dae$/i.test(file.name)) ?? flat.find((file) => isDae(file) && file !== manifest);
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
    flat.filter((file) => file !== main),
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
    const code = text.charCodeAt(i + 1);
    if (code === 33 || code === 63) continue;
    if (code === 47) {
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
