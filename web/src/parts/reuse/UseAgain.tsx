/** Using something again: a puppet from elsewhere, a rig for the art on the bench, or motions of another puppet. */
import { useState } from "react";
import { Button, Form, Modal } from "react-bootstrap";
import { lookAt, notify, reuse, usePuppet, useWorkshop, type Reusing, see, turnTo } from "../../session";
import { Fold } from "../../ui/Fold";
import type { CarriedSaid, FittingView, Puppet, PuppetGlance } from "../../wire/types";
import { several } from "../../ui/text";
import { useFitting, type Chosen, type Told } from "./fitting";
import { Pairs } from "./Pairs";
import { has, Sources } from "./Sources";

const TITLES: Record<Reusing, (puppet: string) => string> = {
  bring: () => "A puppet from elsewhere",
  rig: (puppet) => `A rig for “${puppet}”`,
  motions: (puppet) => `Motions for “${puppet}”`,
};

export function UseAgain() {
  const purpose = useWorkshop((w) => w.reusing);
  const puppet = usePuppet();
  if (!purpose || (purpose !== "bring" && !puppet)) return null;
  return <Sheet purpose={purpose} puppet={puppet} close={() => see({ reusing: null })} />;
}

interface SheetProps {
  purpose: Reusing;
  puppet: Puppet | undefined;
  close: () => void;
}

function Sheet({ purpose, puppet, close }: SheetProps) {
  const [chosen, choose] = useState<Chosen | null>(null);
  return (
    <Modal show onHide={close} aria-labelledby="reuse-title" scrollable size="xl" className="reuse">
      <Modal.Header closeButton>
        <Modal.Title id="reuse-title">{TITLES[purpose](puppet?.name ?? "")}</Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <Sources chosen={chosen} choose={choose} but={purpose === "bring" ? null : (puppet?.id ?? null)} />
        {!chosen && <Hint purpose={purpose} />}
        {chosen && purpose === "bring" && <Bring key={chosen.key} chosen={chosen} close={close} />}
        {chosen && purpose !== "bring" && puppet && (
          <Fit key={chosen.key} purpose={purpose} chosen={chosen} puppet={puppet} close={close} />
        )}
      </Modal.Body>
    </Modal>
  );
}

function Hint({ purpose }: { purpose: Reusing }) {
  const said: Record<Reusing, string> = {
    bring: "Choose a puppet. It comes whole: art, rig, mouth chart, poses and the motions you tick.",
    rig: "Choose a rig. Its joints, limits, limbs that reach, bends, dials and mouths go on the art of this puppet, as far as they fit. Nothing that was set by hand changes.",
    motions:
      "Choose whose motions it is to do. Limbs are found by what they are for, and everything comes in this puppet's proportions: feet stay on the ground.",
  };
  return <p className="hint well">{said[purpose]}</p>;
}

/** Ticks for motions, and what there is to say of each. */
function Ticks({
  glance,
  on,
  tick,
  said,
}: {
  glance: PuppetGlance;
  on: string[];
  tick: (ids: string[]) => void;
  said?: CarriedSaid[];
}) {
  if (!glance.motions.length) return <p className="hint m-0">It has no motions.</p>;
  return (
    <ul className="ticks">
      {glance.motions.map((m) => (
        <li key={m.id}>
          <Form.Check
            id={`reuse ${m.id}`}
            checked={on.includes(m.id)}
            onChange={(e) => tick(e.target.checked ? [...on, m.id] : on.filter((id) => id !== m.id))}
            label={
              <>
                {m.name}{" "}
                <span className="faint small">
                  {several(m.frames, "frame")}
                  {m.cycle ? ", a cycle" : ""}
                </span>
              </>
            }
          />
          {said
            ?.find((s) => s.id === m.id)
            ?.said.map((s) => (
              <p key={s} className="faint small m-0">
                {s}
              </p>
            ))}
        </li>
      ))}
    </ul>
  );
}

function Bring({ chosen, close }: { chosen: Chosen; close: () => void }) {
  const { glance } = chosen;
  const [name, setName] = useState(glance.name);
  const [motions, setMotions] = useState(glance.motions.map((m) => m.id));
  const go = () =>
    void reuseAndLook({ purpose: "bring", source: chosen.source, motions: inOrder(glance, motions), name }, close);
  return (
    <section className="chosen" aria-label={glance.name}>
      <div className="strip">
        <img src={glance.picture} alt={`${glance.name} at rest`} />
      </div>
      <p className="m-0">
        <b>{glance.name}</b>, {chosen.where}: {several(glance.pieces, "piece")}, {has(glance)}.
      </p>
      <div className="fields">
        <label htmlFor="reuse-name">Name here</label>
        <Form.Control
          id="reuse-name"
          size="sm"
          maxLength={120}
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
      </div>
      <Fold title="Motions that come along" note={`${motions.length} of ${glance.motions.length}`}>
        <Ticks glance={glance} on={motions} tick={setMotions} />
      </Fold>
      <Doing go={go} close={close} disabled={!name.trim()} text="Bring it in" />
    </section>
  );
}

/** Motions in the order in which the puppet has them. */
const inOrder = (glance: PuppetGlance, ids: string[]) =>
  glance.motions.map((m) => m.id).filter((id) => ids.includes(id));

async function reuseAndLook(asked: Parameters<typeof reuse>[0], close: () => void): Promise<void> {
  const used = await reuse(asked);
  if (!used) return;
  close();
  lookAt(used.puppet);
  if (used.said) notify(true, "Brought in", used.said);
  if (used.motion) turnTo({ motion: used.motion, frame: 0, keys: [], poses: [], pose: null });
}

interface FitProps {
  purpose: "rig" | "motions";
  chosen: Chosen;
  puppet: Puppet;
  close: () => void;
}

function Fit({ purpose, chosen, puppet, close }: FitProps) {
  const { glance } = chosen;
  const [told, tell] = useState<Told>({});
  const [ticked, tick] = useState(
    purpose === "rig" ? glance.motions.map((m) => m.id) : glance.motions.slice(0, 1).map((m) => m.id),
  );
  const motions = inOrder(glance, ticked);
  const { view, looking, refused } = useFitting(purpose, chosen, puppet.id, told, motions);
  const go = () => void reuseAndLook({ purpose, source: chosen.source, puppet: puppet.id, told, motions }, close);
  const text = purpose === "rig" ? `Put it on “${puppet.name}”` : `Let it do ${several(motions.length, "motion")}`;
  const nothing = purpose === "motions" && !motions.length;
  return (
    <section className="chosen" aria-label={glance.name} aria-busy={looking}>
      {refused && (
        <p className="wrong" role="alert">
          {refused}
        </p>
      )}
      {view && (
        <>
          <div className={`strip${looking ? " waits" : ""}`}>
            <img
              src={view.picture}
              alt={view.motions[0] ? `${puppet.name} doing ${view.motions[0].name}` : `${puppet.name} with this rig`}
            />
          </div>
          <Fits view={view} purpose={purpose} puppet={puppet} />
        </>
      )}
      {!view && !refused && <p className="hint">Looking what fits…</p>}
      <Fold
        title={purpose === "rig" ? "Motions that come along" : "Motions"}
        note={`${motions.length} of ${glance.motions.length}`}
      >
        <Ticks glance={glance} on={ticked} tick={tick} said={view?.motions} />
      </Fold>
      {view && (
        <Fold
          title="What takes what"
          note={several(view.pairs.filter((p) => p.other).length, "joint")}
          open={purpose === "rig"}
        >
          <Pairs view={view} puppet={puppet} told={told} tell={tell} />
        </Fold>
      )}
      <Doing go={go} close={close} disabled={!view || looking || nothing} text={text} />
    </section>
  );
}

/** What fits, and what does not. */
function Fits({ view, purpose, puppet }: { view: FittingView; purpose: "rig" | "motions"; puppet: Puppet }) {
  const fit = view.pairs.filter((p) => p.other).length;
  const lacking = view.pairs.filter((p) => !p.other).map((p) => p.name);
  const open = [
    lacking.length > 0 && `Nothing here for ${lacking.join(", ")}.`,
    view.over.length > 0 &&
      `The rig has nothing for ${view.over.join(", ")}: ${view.over.length === 1 ? "it stays" : "they stay"} as it was.`,
    view.hung.length > 0 &&
      `The rig has nothing for ${view.hung.join(", ")}: hung where ${view.hung.length === 1 ? "it seems" : "they seem"} to belong.`,
    ...view.said,
  ].filter((s) => s !== false);
  return (
    <div role="status">
      <p className="m-0">
        {fit} of {several(view.pairs.length, "joint")} fit “{puppet.name}”
        {purpose === "rig" && view.made > 0
          ? `; ${several(view.made, "joint")} without a picture ${view.made === 1 ? "is" : "are"} made`
          : ""}
        .
      </p>
      {open.length > 0 && (
        <ul className="unfit">
          {open.map((s) => (
            <li key={s}>{s}</li>
          ))}
        </ul>
      )}
    </div>
  );
}

function Doing({ go, close, disabled, text }: { go: () => void; close: () => void; disabled: boolean; text: string }) {
  return (
    <div className="doing">
      <Button variant="outline-primary" onClick={close}>
        Leave it
      </Button>
      <Button disabled={disabled} onClick={go}>
        {text}
      </Button>
    </div>
  );
}
