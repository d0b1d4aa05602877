/** What meshes and materials are called after the kinds of parts, in the languages that names are read in. From memory. */
import type { PartKind } from '../character/part-kinds';
import { wordsOf } from './reading/tokens';

const LIST: Readonly<Record<PartKind, string>> = {
  skin: 'skin body head face hands haut korper kopf gesicht peau corps tete visage piel cuerpo cabeza cara pele corpo cabeca rosto pelle testa viso skora cialo glowa twarz кожа тело голова лицо deri vucut 体 身体 肌 皮肤 몸 피부',
  cloth:
    'cloth clothes clothing coat jacket shirt tshirt trousers pants jeans shorts skirt dress cape cloak robe apron sleeve hood scarf glove gloves sock socks boot boots shoe shoes suit vest tunic kerchief neckerchief bandana kleidung mantel jacke hemd hose hosen rock kleid schurze handschuh stiefel schuh schuhe manteau veste chemise pantalon jupe robe tablier gant botte chaussure abrigo chaqueta camisa pantalon falda vestido guante bota zapato casaco saia luva sapato cappotto giacca camicia pantaloni gonna guanto stivale scarpa plaszcz spodnie buty пальто куртка рубашка брюки юбка платье перчатка сапог ботинок 服 靴 手袋 スカート コート 衣服 裤子 鞋 옷 신발',
  hair: 'hair hairs fur beard moustache mustache brow brows eyebrow eyebrows eyelash eyelashes lash lashes ponytail braid haar haare bart augenbraue wimper cheveux barbe sourcil cils pelo cabello barba ceja pestana cabelo capelli sopracciglio wlosy broda волосы борода бровь sac 髪 睫毛 頭发 头发 眉 머리카락',
  eye: 'eye eyes eyeball eyeballs iris pupil cornea auge augen oeil yeux ojo ojos olho olhos occhio occhi oko oczy глаз глаза goz 目 眼 眼球 눈',
  tooth:
    'tooth teeth gum gums zahn zahne dent dents gencive diente dientes dente denti zab zeby зуб зубы dis 歯 牙齿 牙 이빨',
  tongue: 'tongue zunge langue lengua lingua jezyk язык dil 舌 舌头 혀',
  hat: 'hat cap helmet helm beanie crown hood hut mutze krone kappe chapeau casquette casque couronne sombrero gorra casco corona chapeu bone cappello berretto kapelusz czapka шапка шляпа шлем sapka 帽子 ヘルメット 모자',
  buckle:
    'buckle button buttons badge rivet zipper ring rings earring earrings belt clasp medal schnalle knopf knopfe abzeichen ring boucle bouton anneau hebilla boton anillo fivela botao fibbia bottone anello guzik klamra пряжка пуговица кольцо toka ボタン バックル 扣 纽扣 버클 단추',
};

const KIND_OF: ReadonlyMap<string, PartKind> = new Map(
  Object.entries(LIST)
    .flatMap(([kind, words]) =>
      // A hood is cloth, and a word of two kinds is that of the first.
      words.split(' ').map((word) => [word, kind as PartKind] as const),
    )
    .reverse(),
);

/** Words that stand at the end of others written as one, and at the end of no other word. */
const ENDINGS = ['eyes', 'eyeball', 'eyeballs', 'teeth', 'tongue', 'eyelashes', 'eyebrows'];

function kindOfWord(word: string): PartKind | undefined {
  const ending = ENDINGS.find((end) => word.endsWith(end));
  return KIND_OF.get(word) ?? (ending ? KIND_OF.get(ending) : undefined);
}

/** The kind that a name is called after, with the word; null where it is called after none, or after several. */
export function kindInName(name: string): { readonly kind: PartKind; readonly word: string } | null {
  const told = wordsOf(name).flatMap((word) => {
    const kind = kindOfWord(word);
    return kind ? [{ kind, word }] : [];
  });
  // “body” says little beside another word: a body’s eyes are eyes.
  const others = told.filter(({ kind }) => kind !== 'skin');
  const kinds = new Set(others.map(({ kind }) => kind));
  if (kinds.size === 1) return others[0];
  return kinds.size === 0 ? (told[0] ?? null) : null;
}
