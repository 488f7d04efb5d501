/** A rig proposed for loose pieces: asked for, looked at limb by limb, taken or left. */
import { useCallback, useEffect, useMemo, useState } from "react";
import { proposeRig, submit, tell, useWorkshop } from "../../session";
import type { Hang, LinkQuestion, Proposal, Puppet } from "../../wire/types";

export interface Limb {
  name: string;
  hangs: Hang[];
  /** As sure as the least sure of its parts. */
  sure: number;
}

export interface Rigging {
  /** How many pieces hang on nothing yet. */
  loose: number;
  limbs: Limb[] | null;
  open: string[];
  /** What is not clear, and what was said of it. */
  questions: LinkQuestion[];
  said: ReadonlyMap<string, string | null>;
  /** The answer that is looked at on the figure. */
  tried: { joint: string; on: string } | null;
  lookAtAnswer: (tried: { joint: string; on: string } | null) => void;
  /** Say what a joint hangs on: nothing, with null; take back what was said, with undefined. */
  say: (joint: string, on: string | null | undefined) => void;
  refused: ReadonlySet<string>;
  shown: string | null;
  asking: boolean;
  ask: () => void;
  drop: () => void;
  show: (limb: string | null) => void;
  refuse: (limb: string, refused: boolean) => void;
  take: (limb?: string) => void;
}

/** The parts of each limb together, in the order in which they were proposed. */
function limbsOf(proposal: Proposal): Limb[] {
  const found = new Map<string, Hang[]>();
  for (const hang of proposal.hangs) found.set(hang.limb, [...(found.get(hang.limb) ?? []), hang]);
  return [...found].map(([name, hangs]) => ({ name, hangs, sure: Math.min(...hangs.map((h) => h.sure)) }));
}

export function useRigging(puppet: Puppet | undefined): Rigging {
  const [wanted, setWanted] = useState<string | null>(null);
  const [proposal, setProposal] = useState<{ of: Puppet; found: Proposal } | null>(null);
  const [refused, setRefused] = useState<ReadonlySet<string>>(new Set());
  const [shown, show] = useState<string | null>(null);
  const [said, setSaid] = useState<ReadonlyMap<string, string | null>>(new Map());
  // What was asked stays where it stood once it is answered, so that the answer can be changed.
  const [asked, setAsked] = useState<readonly LinkQuestion[]>([]);
  const [tried, lookAtAnswer] = useState<{ joint: string; on: string } | null>(null);
  const loose = useWorkshop((w) => (w.rig && w.rig.puppet === puppet?.id ? (w.rig.loose ?? 0) : 0));
  const open = puppet !== undefined && wanted === puppet.id;

  // Whatever changes in the puppet may make another proposal.
  useEffect(() => {
    if (!open) return;
    let over = false;
    proposeRig(puppet.id, said).then(
      (found) => {
        if (over) return;
        setProposal({ of: puppet, found });
        setAsked((before) => [
          ...before.filter((q) => said.has(q.joint)),
          ...found.questions.filter((q) => !said.has(q.joint)),
        ]);
      },
      (error: unknown) => {
        if (over) return;
        setWanted(null);
        tell(error);
      },
    );
    return () => {
      over = true;
    };
  }, [open, puppet, said]);

  const limbs = useMemo(
    () => (open && proposal?.of.id === puppet.id ? limbsOf(proposal.found) : null),
    [open, proposal, puppet?.id],
  );
  const drop = useCallback(() => {
    setWanted(null);
    setProposal(null);
    setRefused(new Set());
    setSaid(new Map());
    setAsked([]);
    lookAtAnswer(null);
    show(null);
  }, []);
  const take = (limb?: string) => {
    if (!puppet || !limbs) return;
    const taken = limbs.filter((l) => (limb === undefined ? !refused.has(l.name) : l.name === limb));
    const hung = taken.flatMap((l) => l.hangs.map((h) => h.hung));
    const whole = limb === undefined ? {} : { limb };
    if (hung.length)
      void submit({ do: "take-rig", puppet: puppet.id, hung, ...whole }).then(
        (done) => done && limb === undefined && drop(),
      );
    show(null);
  };
  return {
    loose,
    limbs,
    open: (proposal?.found.open ?? []).filter((id) => !asked.some((q) => q.joint === id)),
    questions: limbs ? asked.filter((q) => puppet?.joints?.[q.joint]?.parent === null) : [],
    said,
    tried,
    lookAtAnswer,
    say: (joint, on) => {
      lookAtAnswer(null);
      setSaid((before) => {
        const after = new Map(before);
        if (on === undefined) after.delete(joint);
        else after.set(joint, on);
        return after;
      });
    },
    refused,
    shown,
    asking: open && limbs === null,
    ask: () => puppet && setWanted(puppet.id),
    drop,
    show,
    refuse: (limb, no) =>
      setRefused((before) => new Set(no ? [...before, limb] : [...before].filter((l) => l !== limb))),
    take,
  };
}
