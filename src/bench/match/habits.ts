/** How people name bones: one habit an entry, from everyday English to random syllables. Common practice. */
import type { RoleBone } from './roles';

export type Random = () => number;

/** What a bone that is to be named is. */
export interface NamedRole extends Pick<RoleBone, 'part' | 'side' | 'number'> {
  /** Bones along its chain. */
  readonly of: number;
  /** Kinds of bones besides those of the body. */
  readonly kind?: 'twist' | 'end' | 'control' | 'cloth' | 'root' | 'stub' | 'attach';
}

export interface Habit {
  readonly id: string;
  /** Names in a language that the house knows; in words that nobody knows; none at all. */
  readonly speaks: 'known' | 'unknown' | 'nothing';
  /** A namer for one figure. */
  make(random: Random): (bone: NamedRole, index: number) => string;
}

type Words = Readonly<Record<string, string>>;

const ENGLISH: Words = {
  pelvis: 'pelvis',
  spine: 'spine',
  neck: 'neck',
  head: 'head',
  jaw: 'jaw',
  ear: 'ear',
  tail: 'tail',
  wing: 'wing',
  collar: 'clavicle',
  upperarm: 'upper arm',
  lowerarm: 'forearm',
  hand: 'hand',
  thumb: 'thumb',
  index: 'index',
  long: 'middle',
  ring: 'ring',
  little: 'pinky',
  upperleg: 'thigh',
  lowerleg: 'calf',
  foot: 'foot',
  toe: 'toe',
  digits: 'digits',
  frontleg: 'front leg',
  hindleg: 'hind leg',
  horn: 'horn',
  trunk: 'trunk',
  fin: 'fin',
  twist: 'twist',
  end: 'end',
  control: 'ctrl',
  cloth: 'coat',
  root: 'root',
  left: 'left',
  right: 'right',
};

const words = (given: Words): Words => ({ ...ENGLISH, ...given });

const JOINTS = words({
  pelvis: 'hips',
  collar: 'clavicle',
  upperarm: 'shoulder',
  lowerarm: 'elbow',
  hand: 'wrist',
  upperleg: 'hip',
  lowerleg: 'knee',
  foot: 'ankle',
  toe: 'ball',
  long: 'middle finger',
  index: 'index finger',
  ring: 'ring finger',
  little: 'little finger',
});
const LIMBS = words({
  pelvis: 'hips',
  collar: 'shoulder',
  lowerarm: 'lower arm',
  upperleg: 'upper leg',
  lowerleg: 'lower leg',
  toe: 'toes',
  little: 'little',
  spine: 'spine',
});
const CAPTURE = words({
  pelvis: 'hips',
  collar: 'shoulder',
  upperarm: 'arm',
  lowerarm: 'fore arm',
  upperleg: 'up leg',
  lowerleg: 'leg',
  toe: 'toe base',
  index: 'hand index',
  thumb: 'hand thumb',
  long: 'hand middle',
  ring: 'hand ring',
  little: 'hand pinky',
});
const LATIN = words({
  pelvis: 'sacrum',
  spine: 'vertebra',
  neck: 'cervix',
  head: 'cranium',
  collar: 'clavicula',
  upperarm: 'humerus',
  lowerarm: 'radius',
  hand: 'carpus',
  thumb: 'pollex',
  upperleg: 'femur',
  lowerleg: 'tibia',
  foot: 'tarsus',
  toe: 'metatarsal',
  left: 'sin',
  right: 'dex',
});
const GERMAN = words({
  pelvis: 'Becken',
  spine: 'Wirbelsäule',
  neck: 'Hals',
  head: 'Kopf',
  jaw: 'Kiefer',
  ear: 'Ohr',
  tail: 'Schwanz',
  wing: 'Flügel',
  collar: 'Schlüsselbein',
  upperarm: 'Oberarm',
  lowerarm: 'Unterarm',
  hand: 'Hand',
  thumb: 'Daumen',
  index: 'Zeigefinger',
  long: 'Mittelfinger',
  ring: 'Ringfinger',
  little: 'kleiner Finger',
  upperleg: 'Oberschenkel',
  lowerleg: 'Unterschenkel',
  foot: 'Fuß',
  toe: 'Zehen',
  twist: 'Drehung',
  end: 'Ende',
  control: 'Steuerung',
  cloth: 'Mantel',
  root: 'Wurzel',
  left: 'links',
  right: 'rechts',
});
const FRENCH = words({
  pelvis: 'bassin',
  spine: 'colonne',
  neck: 'cou',
  head: 'tête',
  jaw: 'mâchoire',
  ear: 'oreille',
  tail: 'queue',
  wing: 'aile',
  collar: 'clavicule',
  upperarm: 'bras',
  lowerarm: 'avant-bras',
  hand: 'main',
  thumb: 'pouce',
  index: 'index',
  long: 'majeur',
  ring: 'annulaire',
  little: 'auriculaire',
  upperleg: 'cuisse',
  lowerleg: 'mollet',
  foot: 'pied',
  toe: 'orteils',
  twist: 'torsion',
  end: 'bout',
  control: 'contrôle',
  cloth: 'manteau',
  root: 'racine',
  left: 'gauche',
  right: 'droite',
});
const SPANISH = words({
  pelvis: 'cadera',
  spine: 'columna',
  neck: 'cuello',
  head: 'cabeza',
  jaw: 'mandíbula',
  ear: 'oreja',
  tail: 'cola',
  wing: 'ala',
  collar: 'clavícula',
  upperarm: 'brazo',
  lowerarm: 'antebrazo',
  hand: 'mano',
  thumb: 'pulgar',
  index: 'índice',
  long: 'medio',
  ring: 'anular',
  little: 'meñique',
  upperleg: 'muslo',
  lowerleg: 'pantorrilla',
  foot: 'pie',
  toe: 'puntera',
  twist: 'giro',
  end: 'fin',
  control: 'control',
  cloth: 'abrigo',
  root: 'raíz',
  left: 'izquierda',
  right: 'derecha',
});
const PORTUGUESE = words({
  pelvis: 'quadril',
  spine: 'coluna',
  neck: 'pescoço',
  head: 'cabeça',
  jaw: 'mandíbula',
  ear: 'orelha',
  tail: 'rabo',
  wing: 'asa',
  collar: 'clavícula',
  upperarm: 'braço',
  lowerarm: 'antebraço',
  hand: 'mão',
  thumb: 'polegar',
  index: 'indicador',
  long: 'dedo médio',
  ring: 'anelar',
  little: 'mínimo',
  upperleg: 'coxa',
  lowerleg: 'panturrilha',
  foot: 'pé',
  toe: 'artelho',
  twist: 'torção',
  end: 'ponta',
  control: 'controle',
  cloth: 'casaco',
  root: 'raiz',
  left: 'esq',
  right: 'dir',
});
const ITALIAN = words({
  pelvis: 'bacino',
  spine: 'colonna',
  neck: 'collo',
  head: 'testa',
  jaw: 'mascella',
  ear: 'orecchio',
  tail: 'coda',
  wing: 'ala',
  collar: 'clavicola',
  upperarm: 'braccio',
  lowerarm: 'avambraccio',
  hand: 'mano',
  thumb: 'pollice',
  index: 'indice',
  long: 'dito medio',
  ring: 'anulare',
  little: 'mignolo',
  upperleg: 'coscia',
  lowerleg: 'polpaccio',
  foot: 'piede',
  toe: 'dita_piede',
  twist: 'torsione',
  end: 'fine',
  control: 'controllo_ctrl',
  cloth: 'cappotto',
  root: 'radice',
  left: 'sx',
  right: 'dx',
});
const POLISH = words({
  pelvis: 'miednica',
  spine: 'kręgosłup',
  neck: 'szyja',
  head: 'głowa',
  jaw: 'żuchwa',
  ear: 'ucho',
  tail: 'ogon',
  wing: 'skrzydło',
  collar: 'obojczyk',
  upperarm: 'ramię',
  lowerarm: 'przedramię',
  hand: 'dłoń',
  thumb: 'kciuk',
  index: 'wskazujący',
  long: 'środkowy',
  ring: 'serdeczny',
  little: 'mały',
  upperleg: 'udo',
  lowerleg: 'podudzie',
  foot: 'stopa',
  toe: 'palce_stopy',
  twist: 'skręt',
  end: 'koniec',
  control: 'sterowanie',
  cloth: 'płaszcz',
  root: 'korzeń',
  left: 'lewy',
  right: 'prawy',
});
const RUSSIAN = words({
  pelvis: 'таз',
  spine: 'позвоночник',
  neck: 'шея',
  head: 'голова',
  jaw: 'челюсть',
  ear: 'ухо',
  tail: 'хвост',
  wing: 'крыло',
  collar: 'ключица',
  upperarm: 'плечо',
  lowerarm: 'предплечье',
  hand: 'кисть',
  thumb: 'большой_палец',
  index: 'указательный',
  long: 'средний',
  ring: 'безымянный',
  little: 'мизинец',
  upperleg: 'бедро',
  lowerleg: 'голень',
  foot: 'стопа',
  toe: 'носок',
  twist: 'скручивание',
  end: 'конец',
  control: 'контроль',
  cloth: 'пальто',
  root: 'корень',
  left: 'лев',
  right: 'прав',
});
const TURKISH = words({
  pelvis: 'leğen',
  spine: 'omurga',
  neck: 'boyun',
  head: 'kafa',
  jaw: 'çene',
  ear: 'kulak',
  tail: 'kuyruk',
  wing: 'kanat',
  collar: 'köprücük',
  upperarm: 'üst kol',
  lowerarm: 'ön kol',
  hand: 'el',
  thumb: 'başparmak',
  index: 'işaret',
  long: 'orta',
  ring: 'yüzük',
  little: 'serçe',
  upperleg: 'uyluk',
  lowerleg: 'baldır',
  foot: 'ayak',
  toe: 'ayak ucu',
  twist: 'burulma',
  end: 'uç',
  control: 'kontrol',
  cloth: 'ceket',
  root: 'kök',
  left: 'sol',
  right: 'sağ',
});
const JAPANESE = words({
  pelvis: '下半身',
  spine: '背骨',
  neck: '首',
  head: '頭',
  jaw: '顎',
  ear: '耳',
  tail: '尻尾',
  wing: '翼',
  collar: '鎖骨',
  upperarm: '腕',
  lowerarm: 'ひじ',
  hand: '手首',
  thumb: '親指',
  index: '人差し指',
  long: '中指',
  ring: '薬指',
  little: '小指',
  upperleg: '足',
  lowerleg: 'ひざ',
  foot: '足首',
  toe: 'つま先',
  twist: '捩',
  end: '先',
  control: 'コントロール',
  cloth: 'コート',
  root: 'ルート',
  left: '左',
  right: '右',
});
const CHINESE = words({
  pelvis: '骨盆',
  spine: '脊柱',
  neck: '脖子',
  head: '头',
  jaw: '下巴',
  ear: '耳',
  tail: '尾',
  wing: '翅膀',
  collar: '锁骨',
  upperarm: '上臂',
  lowerarm: '前臂',
  hand: '手',
  thumb: '拇指',
  index: '食指',
  long: '中指',
  ring: '无名指',
  little: '小指',
  upperleg: '大腿',
  lowerleg: '小腿',
  foot: '脚',
  toe: '脚趾',
  twist: '扭转',
  end: '末端',
  control: '控制',
  cloth: '外套衣',
  root: '根',
  left: '左',
  right: '右',
});
const KOREAN = words({
  pelvis: '골반',
  spine: '척추',
  neck: '목',
  head: '머리',
  jaw: '턱',
  ear: '귀',
  tail: '꼬리',
  wing: '날개',
  collar: '쇄골',
  upperarm: '위팔',
  lowerarm: '아래팔',
  hand: '손',
  thumb: '엄지',
  index: '검지',
  long: '중지',
  ring: '약지',
  little: '소지',
  upperleg: '허벅지',
  lowerleg: '종아리',
  foot: '발',
  toe: '발가락',
  twist: '비틀기',
  end: '끝',
  control: '컨트롤',
  cloth: '코트',
  root: '루트',
  left: '왼쪽',
  right: '오른쪽',
});

const capital = (word: string) => word.charAt(0).toUpperCase() + word.slice(1);
const camel = (text: string) =>
  text
    .split(/[ _-]+/)
    .map((word, i) => (i === 0 ? word : capital(word)))
    .join('');
const pascal = (text: string) =>
  text
    .split(/[ _-]+/)
    .map(capital)
    .join('');
const snake = (text: string) => text.replace(/[ -]+/g, '_');

/** The word of a bone with what goes along: number and kind. */
function textOf(w: Words, named: NamedRole, number: (n: number) => string): string {
  if (named.kind === 'root') return w.root;
  if (named.kind === 'cloth') return `${w.cloth}${number(named.number)}`;
  if (named.kind === 'attach') return named.part.replace('_', ' ');
  const base = named.kind === 'stub' ? 'hip joint' : w[named.part];
  const name = named.of > 1 ? number(named.number) : '';
  if (named.kind === 'twist' || named.kind === 'end' || named.kind === 'control')
    return `${base}${name} ${w[named.kind]}`;
  return `${base}${name}`;
}

interface Form {
  readonly id: string;
  readonly words: Words;
  readonly speaks?: Habit['speaks'];
  /** The whole name from the words, and the side's word, '' in the middle. */
  put(text: string, side: string): string;
  readonly left?: string;
  readonly right?: string;
  readonly number?: (n: number) => string;
}

const form = ({
  id,
  words: w,
  put,
  left = w.left,
  right = w.right,
  number = (n) => ` ${n}`,
  speaks = 'known',
}: Form): Habit => ({
  id,
  speaks,
  make: () => (named) => {
    const side = { left, right, middle: '' }[named.side];
    return put(textOf(w, named, number), side);
  },
});

const SYLLABLES = [
  'ka',
  'mo',
  'ti',
  'ru',
  'sen',
  'vol',
  'pi',
  'dar',
  'ne',
  'xu',
  'gol',
  'wa',
  'bri',
  'fe',
  'zu',
  'hod',
];
const syllables = (random: Random, n: number) =>
  Array.from({ length: n }, () => SYLLABLES[Math.floor(random() * SYLLABLES.length)]).join('');

/** A word that nobody knows for every part, and for the sides; the figure keeps to them. */
const madeUp = (id: string, put: (text: string, side: string, name: string) => string): Habit => ({
  id,
  speaks: 'unknown',
  make: (random) => {
    const known = new Map<string, string>();
    const word = (key: string, n: number): string => {
      let word = known.get(key);
      while (!word || [...known].some(([otherKey, v]) => otherKey !== key && v === word)) {
        word = syllables(random, n);
        known.set(key, word);
      }
      return word;
    };
    return (named) =>
      put(
        word(`${named.kind ?? ''}${named.part}`, 3),
        named.side === 'middle' ? '' : word(`side ${named.side}`, 1),
        named.of > 1 ? String(named.number) : '',
      );
  },
});

const FINGERS = ['thumb', 'index', 'long', 'ring', 'little'];

/** Every habit. */
export const HABITS: readonly Habit[] = [
  form({
    id: 'camel, side first',
    words: LIMBS,
    put: (text, written) => camel(written ? `${written} ${text}` : text),
    number: (n) => String(n),
  }),
  form({
    id: 'snake, side last',
    words: ENGLISH,
    left: 'l',
    right: 'r',
    put: (text, written) => snake(written ? `${text} ${written}` : text),
    number: (n) => `_0${n}`,
  }),
  form({
    id: 'dot and capital',
    words: LIMBS,
    left: 'L',
    right: 'R',
    put: (text, written) => `${snake(text)}${written ? `.${written}` : ''}`,
    number: (n) => `.00${n}`,
  }),
  form({
    id: 'side first, letter',
    words: ENGLISH,
    left: 'L',
    right: 'R',
    put: (text, written) => `${written ? `${written}_` : 'C_'}${pascal(text)}`,
    number: (n) => String(n),
  }),
  form({
    id: 'capture',
    words: CAPTURE,
    left: 'Left',
    right: 'Right',
    put: (text, written) => `${written}${pascal(text)}`,
    number: (n) => String(n),
  }),
  form({
    id: 'joints',
    words: JOINTS,
    left: 'l',
    right: 'r',
    put: (text, written) => snake(written ? `${written}_${text}` : text),
    number: (n) => String(n),
  }),
  form({
    id: 'joints, capitals',
    words: JOINTS,
    left: 'LFT',
    right: 'RGT',
    put: (text, written) => snake(written ? `${text} ${written}` : text).toUpperCase(),
    number: (n) => ` ${n}`,
  }),
  form({
    id: 'namespace and prefix',
    words: ENGLISH,
    left: 'L',
    right: 'R',
    put: (text, written) => `crew_a:def_${snake(text)}${written ? `_${written}` : ''}`,
    number: (n) => `_${n}`,
  }),
  {
    id: 'figure in front, side in the middle',
    speaks: 'known',
    make: () => (named) => {
      const side = { left: ' L', right: ' R', middle: '' }[named.side];
      const k = FINGERS.indexOf(named.part);
      const text =
        k >= 0
          ? `Finger${k}${named.number > 1 ? named.number - 1 : ''}${named.kind === 'end' ? ' End' : ''}`
          : pascal(textOf({ ...ENGLISH, upperarm: 'upper arm' }, named, (n) => (n > 1 ? String(n - 1) : '')));
      return `Fig07${side} ${text}`;
    },
  },
  {
    id: 'one name along the trunk',
    speaks: 'known',
    make: () => {
      let vertebrae = 0;
      return (named) => {
        const isTrunk = ['pelvis', 'spine', 'neck', 'head'].includes(named.part) && !named.kind;
        const n = isTrunk ? vertebrae++ : 0;
        const text = isTrunk ? 'spine' : snake(textOf(ENGLISH, named, (k) => `.0${k}`));
        const side = { left: '.L', right: '.R', middle: '' }[named.side];
        return `${text}${n > 0 ? `.${String(n).padStart(3, '0')}` : ''}${side}`;
      };
    },
  },
  form({
    id: 'brackets',
    words: LIMBS,
    left: 'L',
    right: 'R',
    put: (text, written) => `${snake(text)}${written ? ` (${written})` : ''}`,
    number: (n) => `-${n}`,
  }),
  form({
    id: 'glued, small',
    words: LIMBS,
    left: 'l',
    right: 'r',
    put: (text, written) => `${written}${text.replace(/ /g, '')}`,
    number: (n) => String(n),
  }),
  form({
    id: 'abbreviated',
    words: words({
      pelvis: 'pelv',
      upperarm: 'up arm',
      lowerarm: 'lo arm',
      upperleg: 'up leg',
      lowerleg: 'lo leg',
      collar: 'clav',
      pinky: 'pinky',
      spine: 'spine',
    }),
    left: 'lf',
    right: 'rt',
    put: (text, written) => snake(written ? `${written}_${text}` : text),
    number: (n) => String.fromCharCode(64 + n),
  }),
  form({
    id: 'anatomical',
    words: LATIN,
    put: (text, written) => snake(written ? `${text}_${written}` : text),
    number: (n) => ` ${['I', 'II', 'III', 'IV', 'V', 'VI'][n - 1]}`,
  }),
  form({ id: 'German', words: GERMAN, put: (text, written) => snake(written ? `${text}_${written}` : text) }),
  form({
    id: 'French',
    words: FRENCH,
    put: (text, written) => pascal(written ? `${text} ${written}` : text),
  }),
  form({
    id: 'French, letters',
    words: FRENCH,
    left: 'G',
    right: 'D',
    put: (text, written) => snake(written ? `${text}_${written}` : text),
  }),
  form({
    id: 'Spanish',
    words: SPANISH,
    left: 'izq',
    right: 'der',
    put: (text, written) => snake(written ? `${text}.${written}` : text),
  }),
  form({
    id: 'Portuguese',
    words: PORTUGUESE,
    put: (text, written) => snake(written ? `${text}_${written}` : text),
  }),
  form({
    id: 'Italian',
    words: ITALIAN,
    put: (text, written) => snake(written ? `${text}_${written}` : text),
  }),
  form({ id: 'Polish', words: POLISH, put: (text, written) => snake(written ? `${written}_${text}` : text) }),
  form({
    id: 'Russian',
    words: RUSSIAN,
    put: (text, written) => snake(written ? `${text}_${written}` : text),
  }),
  form({
    id: 'Turkish',
    words: TURKISH,
    put: (text, written) => snake(written ? `${written}_${text}` : text),
  }),
  form({
    id: 'Japanese',
    words: JAPANESE,
    put: (text, written) => `${written}${text.replace(/ /g, '')}`,
    number: (n) => '０１２３４５６７８９'[n],
  }),
  form({
    id: 'Chinese',
    words: CHINESE,
    put: (text, written) => `${written}${text.replace(/ /g, '')}`,
    number: (n) => String(n),
  }),
  form({ id: 'Korean', words: KOREAN, put: (text, written) => (written ? `${written} ${text}` : text) }),
  madeUp('made-up words', (text, written, name) => [written, text, name].filter(Boolean).join('_')),
  madeUp(
    'made-up, side last, glued',
    (text, written, name) => `${text}${name}${written ? capital(written) : ''}`,
  ),
  { id: 'counted', speaks: 'nothing', make: () => (_b, i) => `joint_${String(i).padStart(3, '0')}` },
  { id: 'syllables by chance', speaks: 'nothing', make: (random) => () => syllables(random, 4) },
];
