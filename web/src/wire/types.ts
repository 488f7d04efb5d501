/** The service's own types, under short names. */
import type { components } from "./schema";

type Schemas = components["schemas"];

/** What the service answers with: everything is told in it, also what is as it is by itself. */
type Whole<T> = T extends object ? { [K in keyof T]-?: Whole<T[K]> } : T;

export type SessionView = Schemas["SessionView"];
export type SharesView = Schemas["SharesView"];
export type Production = Whole<Schemas["Production"]>;
export type Puppet = Whole<Schemas["Puppet"]>;
export type Piece = Whole<Schemas["Piece"]>;
export type Joint = Whole<Schemas["Joint"]>;
export type Motion = Whole<Schemas["Motion"]>;
export type Channel = Whole<Schemas["Channel"]>;
export type Key = Whole<Schemas["Key"]>;
export type Ease = Key["ease"];
export type ChannelKind = Channel["kind"];
/** The ways in which a hand can pull. */
export type Pull = Schemas["Grab"]["pull"];
export type Drawing = Whole<Schemas["Drawing"]>;
export type BlinkParts = Schemas["BlinkParts"];
export type RightWayRound = Schemas["RightWayRound"];
export type Dial = Whole<Schemas["Dial"]>;
/** The dial that turns a puppet round, if it has one. */
export const turnaroundOf = (puppet: Puppet): Dial | undefined =>
  Object.values(puppet.dials ?? {}).find((d) => d.turns && d.stops?.length);
export type TurnView = Schemas["TurnView"];
export type Shape = NonNullable<Drawing["shape"]>;
export type Chain = Whole<Schemas["Chain"]>;
export type Swatch = Whole<Schemas["Swatch"]>;
export type Correction = Whole<Schemas["Correction"]>;
export type Reference = Whole<Schemas["Reference"]>;
export type Group = Whole<Schemas["Group"]>;
export type Side = Piece["side"];
export type Voice = Whole<Schemas["Voice"]>;
/** A part of the film: who is in it, what they do, and how the camera sees it. */
export type Shot = Whole<Schemas["Shot"]>;
/** A puppet in the cast, and an element that is copied. */
export type Member = Whole<Schemas["Member"]>;
export type Copies = Whole<Schemas["Copies"]>;
export type CastOf = Member | Copies;
/** A motion on one of the cast for some frames. */
export type Span = Whole<Schemas["Span"]>;
export type Travel = Whole<Schemas["Travel"]>;
/** Where something is to be, across and down: of either null, where it is. */
export type HalfPlace = [number | null, number | null];
export type Shake = Whole<Schemas["Shake"]>;
export type Pass = NonNullable<Shot["stage"]>;
/** A line or an effect in a shot, and what is heard of all of them. */
export type HeardSound = Whole<Schemas["Heard"]>;
export type HeardView = Schemas["HeardView"];
export type CelView = Schemas["CelView"];
export type Posed = Schemas["Posed"];
export type ShotLetter = Schemas["ShotLetter"];
export type ShotPart = Schemas["ShotPart"];
export type ShotChanged = Schemas["ShotChanged"];
export type FilmLetter = Schemas["FilmLetter"];
export type FilmPart = Schemas["FilmPart"];
export type ShotTarget = Schemas["InShot"];
/** A line of the chart's words, and one of its sounds. */
export type Word = Whole<Schemas["Word"]>;
export type Phone = Whole<Schemas["Phone"]>;
export type Placed = Whole<Schemas["Placed"]>;
export type Recording = Whole<Schemas["Recording"]>;
export type Mouth = Whole<Schemas["Mouth"]>;
export type MouthChart = Whole<Schemas["MouthChart"]>;
export type Document = Production | Puppet | Motion | Voice | Shot;
export type Command = Schemas["Change"]["command"];
export type Recipe = Schemas["DoRecipe"]["recipe"];
export type Preset = NonNullable<Schemas["DoRecipe"]["preset"]>;
export type Ack = Schemas["Ack"];
export type Lately = Schemas["Lately"];
export type Step = Schemas["StepView"];
export type Write = Schemas["WriteView"];
export type ListedView = Schemas["ListedView"];
export type Report = Schemas["Report"];
export type SoundReport = Schemas["SoundReport"];
export type Language = Schemas["SpokenLanguage"];
/** What the program makes of the lines on a motion. */
export type Exposed = Schemas["Exposed"];
export type SheetLine = Schemas["SheetLine"];
/** The film at a glance, and a production in the list of all. */
export type Overview = Schemas["Overview"];
export type Glance = Schemas["Glance"];
/** What another frame rate does to the keys of a motion or a shot. */
export type MovedView = Schemas["MovedView"];
export type RenderOrder = Schemas["RenderOrder"];
export type RenderView = Schemas["RenderView"];

/** The id under which the puppet as a whole is turned and moved. */
export const ROOT = "puppet";

/** An error of the service: RFC 9457 problem details. */
export interface Problem {
  status: number;
  title: string;
  detail: string;
  where?: string;
  remedy?: string;
  kind?: string;
  mine?: string;
  theirs?: string[];
}

export type Item = Schemas["ItemView"];
/** What to draw in some frames, as sent: little-endian float32 and int16. */
export type Drawn = Omit<Schemas["Posed"], "worlds">;
/** Where the points of a drawing that bends, or becomes another, lie. */
export type BentPoints = NonNullable<Drawn["points"]>[number];
export type PlanLetter = Schemas["PlanLetter"];
export type PoseLetter = Schemas["PoseLetter"];
/** A pose or short motion of the pose book. */
export type BookEntry = Whole<Schemas["Entry"]>;
/** A key on the path of a joint, on the stage. */
export type WayKey = Schemas["WayKeyView"];
/** How one of a piece's drawings becomes another. */
export type Morph = Whole<Schemas["Morph"]>;
export type Mark = Whole<Schemas["Mark"]>;
export type MarkGiven = Schemas["MarkGiven"];
export type MorphLetter = Schemas["MorphLetter"];
export type LookAtMorph = Schemas["LookAtMorph"];
export type BetweensAsked = Schemas["BetweensAsked"];
export type DrawingPart = Schemas["PartView"];
export type DrawingParts = Schemas["PartsView"];
export type TouchUp = Schemas["TouchUp"];
export type TouchingUp = Schemas["TouchingUp"];
export type RetouchedPart = Whole<Schemas["RetouchedPart"]>;
export type Parting = Schemas["Parting"];
export type Proposal = Schemas["ProposalView"];
export type Hang = Schemas["HangView"];
export type LinkQuestion = Schemas["QuestionView"];
export type RigView = Schemas["RigView"];
/** A puppet that can be used again, and what it has. */
export type PuppetGlance = Schemas["PuppetGlance"];
export type Source = Schemas["PuppetSource"];
export type Fitting = Schemas["Fitting"];
export type FittingView = Schemas["FittingView"];
export type CarriedSaid = Schemas["CarriedView"];
export type Using = Schemas["Using"];
export type Used = Schemas["Used"];
export type CardsLetter = Schemas["CardsLetter"];
export type TriedLetter = Schemas["TriedLetter"];
export type Part = Schemas["PlanPart"];
/** A likely mistake, as the core's checks see it. */
export type Finding = Schemas["FindingView"];
export type BendReport = Schemas["BendView"];
/** A foot or hand that stays where it is for some frames. */
export type Plant = Whole<Schemas["Plant"]>;
export type MotionReport = Schemas["MotionReport"];
export type RigReport = Schemas["RigLetter"];
/** A gap between two keys: its first frame, its last, and the progress of each frame. */
export type SpacedView = Schemas["SpacedView"];
export type Gap = SpacedView["gaps"][number];
export type Watch = Schemas["Watch"];
/** What can be looked at. */
export type Target = Watch["target"];
/** All that a production holds, as a window that has just come is told of it. */
export type WholeDocuments = readonly Document[];
/** Letters of the live socket. */
export type FromPage = Schemas["FromPage"];
export type ToPage = Schemas["ToPage"];

export type Point = [number, number];

/** Where each piece's pivot is at rest, with its turn, skew and scale: x, y, angle, skew, sx, sy. */
export type Places = NonNullable<PlanLetter["places"]>;
