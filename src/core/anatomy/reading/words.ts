/**
 * The words that bones are named with, one line a word: what it means, and how it is written in everyday,
 * anatomical and abbreviated English, in German, French, Spanish, Portuguese, Italian, Polish, Russian, Turkish,
 * Japanese, Chinese and Korean. Accents are taken off before they are looked up. Common practice (no source).
 */

/** What a word means by itself; several together, and the tree, say which bone it is. */
export type Meaning =
  // Parts that one word names.
  | 'root'
  | 'pelvis'
  | 'spine'
  | 'chest'
  | 'neck'
  | 'head'
  | 'jaw'
  | 'eye'
  | 'ear'
  | 'collar'
  | 'upperarm'
  | 'lowerarm'
  | 'hand'
  | 'upperleg'
  | 'lowerleg'
  | 'foot'
  | 'toe'
  | 'thumb'
  | 'index'
  | 'long'
  | 'ring'
  | 'little'
  | 'tail'
  | 'wing'
  // Parts that a word names only together with others.
  | 'arm'
  | 'leg'
  | 'hip'
  | 'shoulder'
  | 'elbow'
  | 'wrist'
  | 'knee'
  | 'ankle'
  | 'ball'
  | 'finger'
  | 'metacarpal'
  | 'upper'
  | 'lower'
  | 'middle'
  | 'small'
  | 'phalanx'
  // Sides and kinds.
  | 'left'
  | 'right'
  | 'centre'
  | 'twist'
  | 'end'
  | 'control'
  | 'helper'
  | 'cloth'
  | 'attach'
  | 'joint';

const LINES = `
root        root origin master world wurzel ursprung racine raiz radice korzen корень kok 根 ルート 全ての親 センター グルーブ 루트
pelvis      pelvis hips sacroiliac sacrum becken huften bassin hanches caderas pelve bacia quadril bacino miednica biodra таз pelvis legen 腰 骨盤 下半身 骨盆 髋部 臀部 골반 엉덩이
spine       spine spinal waist torso abdomen back belly lumbar trunk lowerback vl5 vertebra vertebrae columna wirbelsaule rucken bauch colonne dos ventre espalda espina vientre coluna costas barriga colonna schiena spina kregoslup plecy brzuch позвоночник спина живот omurga sirt bel karin 背骨 上半身 腹 脊柱 脊椎 腰椎 背 척추 허리 등 배
chest       chest thorax thoracic ribs ribcage upperchest sternum brust brustkorb poitrine torse pecho torax peito petto torace klatka piers грудь gogus 胸 胸部 가슴
neck        neck cervical cervicals hals nacken cou nuque cuello cervix pescoco collo szyja kark шея boyun 首 颈 颈部 脖子 脖 頸 목
head        head skull skullbase cranium kopf schadel tete crane cabeza craneo cabeca testa cranio glowa czaszka голова череп bas kafa 頭 头 头部 머리
jaw         jaw chin mandible kiefer kinn unterkiefer machoire menton mandibula barbilla queixo mascella mento szczeka zuchwa челюсть cene 顎 あご 下巴 下颌 턱
eye         eye eyeball auge oeil ojo olho occhio oko глаз goz 目 眼 눈
ear         ear ohr oreille oreja orelha orecchio ucho ухо kulak 耳 귀
collar      clavicle clavicula collar collarbone clav scapula schlusselbein clavicule clavicola obojczyk ключица koprucuk 鎖骨 锁骨 쇄골
shoulder    shoulder shldr schulter epaule hombro ombro spalla bark плечевой omuz 肩 肩膀 어깨
upperarm    upperarm humerus uparm bicep biceps oberarm ramie плечо ustkol 上腕 上臂 大臂 위팔 상완
lowerarm    forearm lowerarm radius ulna loarm unterarm avantbras antebrazo antebraco avambraccio przedramie предплечье onkol 前腕 前臂 小臂 아래팔 전완
elbow       elbow ellbogen ellenbogen coude codo cotovelo gomito lokiec локоть dirsek ひじ 肘 肘部 팔꿈치
hand        hand palm main mano mao dlon reka кисть el 手 손
wrist       wrist carpus handgelenk poignet muneca pulso punho polso nadgarstek запястье bilek 手首 手腕 손목
arm         arm bras brazo braco braccio рука kol 腕 うで 팔
thumb       thumb pollex daumen pouce pulgar polegar pollice kciuk большой basparmak 親指 拇指 大拇指 엄지
index       index indexfinger point pointer forefinger zeigefinger zeige indice indicador wskazujacy указательный isaret 人差し指 人差指 人指 食指 검지
long        longfinger middlefinger mittelfinger majeur corazon srodkowy средний orta 中指 중지
ring        ring ringfinger annulaire anular anelar anulare serdeczny безымянный yuzuk 薬指 无名指 約指 약지
little      little pinky pinkie pinkyfinger littlefinger kleinfinger kleinerfinger auriculaire menique mindinho minimo mignolo maly мизинец serce 小指 새끼 소지
finger      finger fingers digit digits doigt dedo dito palec палец parmak 指 손가락
metacarpal  metacarpal metacarpals meta mittelhand metacarpe metacarpo metakarpal srodrecze пясть 掌骨
phalanx     phalanx proximal intermediate distal prox inter dist
upperleg    upperleg thigh upleg femur oberschenkel cuisse muslo coxa coscia udo бедро uyluk 太もも 大腿 もも 허벅지
lowerleg    lowerleg shin calf tibia fibula loleg shank unterschenkel mollet pantorrilla espinilla panturrilha canela polpaccio stinco podudzie lydka голень baldir すね 下腿 小腿 종아리
knee        knee patella knie genou rodilla joelho ginocchio kolano колено diz ひざ 膝 膝盖 무릎
leg         leg bein jambe pierna perna gamba noga нога bacak 足 脚 腿 다리
hip         hip huft hufte hanche cadera anca biodro kalca 股 髋 고관절
foot        foot fuss pied pie pe piede stopa стопа ступня ayak 脚掌 발
ankle       ankle tarsus knochel fussgelenk cheville tobillo tornozelo caviglia kostka лодыжка ayakbilegi 足首 脚踝 踝 발목
toe         toe toes toebase midtarsal metatarsal zeh zehe zehen orteil orteils punta puntera dedospie dedosdelpie artelho dedosdope ditapiede palcestopy носок пальцыноги ayakparmak ayakucu つま先 足先 つまさき 脚趾 脚尖 발가락
ball        ball ballen
tail        tail schwanz schweif queue cola rabo cauda coda ogon хвост kuyruk 尾 しっぽ 尻尾 꼬리
wing        wing flugel aile ala asa skrzydlo крыло kanat 翼 羽 翅膀 날개
upper       upper up upr ober haut superior gorny верхний ust 上 위
lower       lower low lo lwr fore unter bas inferior dolny нижний alt 下 아래
middle      middle long mid mittel moyen medio 中
small       small klein petit pequeno
left        left lft links linke linker gauche izquierda izquierdo izq esquerda esquerdo esq sinistra sinistro sinister sin lewy lewa lewe левый левая левое лев sol 左 ひだり 왼쪽 왼
right       right rgt rechts rechte rechter droit droite derecha derecho der direita direito dir destra destro dexter dex prawy prawa prawe правый правая правое прав sag 右 みぎ 오른쪽 오른
centre      center centre central mitte
twist       twist roll drehung verdrehung torsion giro torcao torsione skret скручивание burulma 捩 捩り 扭 扭转 비틀기
end         end tip null leaf effector eff endeffector terminal ende spitze bout fin extremo ponta fine koniec конец uc 先 末端 끝
control     ctrl control controller ctl ik fk pole target aim handle goal solver steuer steuerung ziel controle kontrol sterowanie контроль ＩＫ コントロール 控制 컨트롤
helper      helper aux fix corrective adjust dummy locator hilfs
cloth       cloth coat skirt cape hair strand ribbon belt strap jacket dress scarf sleeve hood pouch mantel rock haar haare manteau jupe cheveux abrigo falda pelo casaco saia cabelo cappotto gonna capelli plaszcz spodnica wlosy пальто юбка волосы ceket etek sac スカート 髪 コート 裙 头发 衣 치마 머리카락 코트
attach      attach attachment attachpoint socket mount holder slot equip prop weapon weapons shield sword axe spear dagger gun rifle pistol quiver arrow arrows ammo helmet helm saddle scabbard sheath holster guard item tool waffe schild schwert arme bouclier epee escudo espada arma scudo spada bron tarcza miecz оружие щит меч silah kalkan 武器 盾 剣 무기 방패
joint       joint jnt bone bn
`;

/** A word and what it means. */
export const MEANINGS: ReadonlyMap<string, Meaning> = new Map(
  LINES.trim()
    .split('\n')
    .flatMap((line) => {
      const [meaning, ...words] = line.trim().split(/\s+/);
      return words.map((word) => [word, meaning as Meaning] as const);
    })
    .reverse(),
);

/** Letters that stand for a side where both of a pair are found in one skeleton: left, right. */
export const SIDE_LETTERS: readonly (readonly [string, string])[] = [
  ['l', 'r'],
  ['lt', 'rt'],
  ['lf', 'rt'],
  ['lf', 'rg'],
  ['li', 're'],
  ['g', 'd'],
  ['i', 'd'],
  ['e', 'd'],
  ['s', 'd'],
  ['sx', 'dx'],
  ['sn', 'dx'],
  ['l', 'p'],
  ['л', 'п'],
];

/** Words for the front and the hind legs of a beast. Common practice (no source). */
export const FRONT_WORDS: readonly string[] =
  'front fore anterior vorne vorder avant delantera delantero anteriore przod'.split(' ');
export const HIND_WORDS: readonly string[] =
  'hind rear back posterior hinten hinter arriere trasera trasero posteriore tyl'.split(' ');
