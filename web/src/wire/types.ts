/** The service's own types, under short names. */
import type { components } from "./schema";

type Schemas = components["schemas"];
export type SessionView = Schemas["SessionView"];
export type SharesView = Schemas["SharesView"];
export type Production = Schemas["Production"];
export type Puppet = Schemas["Puppet"];
export type Piece = Schemas["Piece"];
export type Joint = Schemas["Joint"];
export type Motion = Schemas["Motion"];
export type Channel = Schemas["Channel"];
export type Key = Schemas["Key"];
export type Ease = Key["ease"];
export type ChannelKind = Channel["kind"];
/** The ways in which a hand can pull. */
export type Pull = Schemas["Grab"]["pull"];
export type Drawing = Schemas["Drawing"];
export type RightWayRound = Schemas["RightWayRound"];
export type Dial = Schemas["Dial"];
/** The dial that turns a puppet round, if it has one. */
export const turnaroundOf = (puppet: Puppet): Dial | undefined =>
  Object.values(puppet.dials ?? {}).find((d) => d.turns && d.stops?.length);
export type TurnView = Schemas["TurnView"];
export type Shape = NonNullable<Drawing["shape"]>;
export type Chain = Schemas["Chain"];
export type Swatch = Schemas["Swatch"];
export type Correction = Schemas["Correction"];
export type Reference = Schemas["Reference"];
export type Group = Schemas["Group"];
export type Side = Piece["side"];
export type Voice = Schemas["Voice"];
/** A part of the film: who is in it, what they do, and how the camera sees it. */
export type Shot = Schemas["Shot"];
/** A puppet in the cast, and an element that is copied. */
export type Member = Schemas["Member"];
export type Copies = Schemas["Copies"];
export type CastOf = Member | Copies;
/** A motion on one of the cast for some frames. */
export type Span = Schemas["Span"];
export type Travel = Schemas["Travel"];
/** Where something is to be, across and down: of either null, where it is. */
export type HalfPlace = [number | null, number | null];
export type Shake = Schemas["Shake"];
export type Pass = NonNullable<Shot["stage"]>;
/** A line or an effect in a shot, and what is heard of all of them. */
export type HeardSound = Schemas["Heard"];
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
export type Word = Schemas["Word"];
export type Phone = Schemas["Phone"];
export type Placed = Schemas["Placed"];
export type Recording = Schemas["Recording"];
export type Mouth = Schemas["Mouth"];
export type MouthChart = Schemas["MouthChart"];
export type Document = Production | Puppet | Motion | Voice | Shot;
export type Command = Schemas["Change"]["command"];
export type Recipe = Schemas["DoRecipe"]["recipe"];
export type Preset = NonNullable<Schemas["DoRecipe"]["preset"]>;
export type Ack = Schemas["Ack"];
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
export type BookEntry = Schemas["Entry"];
/** A key on the path of a joint, on the stage. */
export type WayKey = Schemas["WayKeyView"];
/** How one of a piece's drawings becomes another. */
export type Morph = Schemas["Morph"];
export type Mark = Schemas["Mark"];
export type MarkGiven = Schemas["MarkGiven"];
export type MorphLetter = Schemas["MorphLetter"];
export type LookAtMorph = Schemas["LookAtMorph"];
export type BetweensAsked = Schemas["BetweensAsked"];
export type DrawingPart = Schemas["PartView"];
export type DrawingParts = Schemas["PartsView"];
export type Parting = Schemas["Parting"];
export type Proposal = Schemas["ProposalView"];
export type Hang = Schemas["HangView"];
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
export type Plant = Schemas["Plant"];
export type MotionReport = Schemas["MotionReport"];
export type RigReport = Schemas["RigLetter"];
/** A gap between two keys: its first frame, its last, and the progress of each frame. */
export type SpacedView = Schemas["SpacedView"];
export type Gap = SpacedView["gaps"][number];
export type Watch = Schemas["Watch"];
/** What can be looked at. */
export type Target = Watch["target"];
/** Letters of the live socket. */
export type FromPage = Schemas["FromPage"];
export type ToPage = Schemas["ToPage"];

export type Point = [number, number];

/** Where each piece's pivot is at rest, with its turn, skew and scale: x, y, angle, skew, sx, sy. */
export type Places = NonNullable<PlanLetter["places"]>;
