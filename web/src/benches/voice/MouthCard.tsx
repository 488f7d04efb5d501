/** A mouth of the set: pressed it goes on the frame that shows; drawings and sounds are carried onto it. */
import { submit } from "../../session";
import { useCarried, useOnto } from "../../ui/Carrying";
import { spell } from "../../ui/shortcuts";
import type { Mouth, MouthChart, Puppet } from "../../wire/types";
import { putMouth, valueOf } from "./commands";
import { MouthThumb } from "../../parts/MouthThumb";

export const DIGITS = ["1", "2", "3", "4", "5", "6", "7", "8", "9", "0"];
/** What is carried onto a mouth. */
export const SHOWN = "what a mouth shows";
export const SOUND = "a sound";

interface Props {
  puppet: Puppet;
  chart: MouthChart;
  mouth: Mouth;
  /** Which of the mouths it is, from nought. */
  n: number;
  mood: string;
  /** Pixels across. */
  size: number;
  letters: string[];
  /** The sounds that take it. */
  sounds: string[];
  here: boolean;
  opened: boolean;
  open: () => void;
}

export function MouthCard({ puppet, chart, mouth, n, mood, size, letters, sounds, here, opened, open }: Props) {
  const value = valueOf(mouth, mood);
  const own = mouth.shows[mood]?.length;
  const shown = value !== undefined && chart.piece !== null;
  const { ref: hold, ...carrying } = useCarried(shown ? { kind: SHOWN, id: String(value), name: mouth.name } : null);
  const { ref: under, over } = useOnto({
    takes: ({ kind, id }) => kind === SOUND || (kind === SHOWN && id !== String(value)),
    drop: ({ kind, id }) =>
      void submit(
        kind === SOUND
          ? { do: "give-sounds", puppet: puppet.id, labels: [id], mouth: mouth.id }
          : { do: "set-mouth", puppet: puppet.id, mouth: mouth.id, mood, shows: [Number(id)] },
      ),
  });
  return (
    <div
      ref={under}
      className={`mouth-card${here ? " chosen" : ""}${mouth.speaks ? "" : " silent"}${over ? " drop" : ""}`}
      data-mouth={mouth.id}
      role="group"
      aria-label={mouth.name}
    >
      <button
        type="button"
        className="put"
        {...carrying}
        ref={hold}
        aria-pressed={here}
        aria-label={`Put in ${mouth.name}${n < DIGITS.length ? `, key ${DIGITS[n]}` : ""}`}
        title={`${mouth.name}: put it on this frame${letters.length ? ` (${letters.join(" ").toUpperCase()})` : ""}`}
        style={{ background: chart.backing.slice(0, 7) }}
        onClick={() => putMouth({ mouth: mouth.id })}
      >
        {n < DIGITS.length && <span className="key-cap">{spell(DIGITS[n]!)}</span>}
        {value === undefined ? (
          <i className="bi bi-slash-circle faint" role="img" aria-label="nothing shows it" />
        ) : (
          <MouthThumb puppet={puppet} chart={chart} value={value} width={size - 10} height={(size - 10) * 0.62} />
        )}
        {!own && value !== undefined && (
          <span className="borrowed" title={`The plain one: there is none for “${mood}”`}>
            plain
          </span>
        )}
      </button>
      <button type="button" className="mouth-name" aria-expanded={opened} title="Name, look and sounds" onClick={open}>
        {mouth.name}
        <span className="taken">{mouth.speaks ? sounds.join(" ") : "not for speech"}</span>
      </button>
    </div>
  );
}
