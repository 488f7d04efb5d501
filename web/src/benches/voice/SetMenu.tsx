/** What holds for all mouths of a set: how large they are here, their moods, how they move and blend. */
import { useState } from "react";
import { Button } from "react-bootstrap";
import { freshId, submit } from "../../session";
import { IconButton } from "../../ui/bits";
import { ColourField } from "../../parts/ColourField";
import { NumberRow, Slider } from "../../ui/fields";
import type { MouthChart, Puppet } from "../../wire/types";
import { PLAIN, type Hand } from "./commands";

export function SetMenu({
  puppet,
  chart,
  hand,
  setHand,
}: {
  puppet: Puppet;
  chart: MouthChart;
  hand: Hand;
  setHand: (part: Partial<Hand>) => void;
}) {
  const [open, setOpen] = useState(false);
  const put = (given: object) => void submit({ do: "set-mouth-set", puppet: puppet.id, ...given });
  const [name, setName] = useState("");
  return (
    <div className="position-relative">
      <IconButton
        icon="sliders2"
        label="The set: size, colour, moods, keys"
        pressed={open}
        onClick={() => setOpen(!open)}
      />
      {open && (
        <div className="card-sheet set-menu">
          <div className="fields">
            <label htmlFor="set-size">Size</label>
            <Slider
              id="set-size"
              of="mouths.size"
              value={hand.size}
              onSlide={(size) => setHand({ size })}
              onCommit={(size) => setHand({ size })}
            />
            <span className="faint">Backing</span>
            <ColourField
              label="Colour behind the mouths"
              value={chart.backing}
              onCommit={(backing) => put({ backing })}
            />
            <NumberRow
              id="set-late"
              label="The hand is late by"
              of="hand.late"
              value={hand.late}
              unit="fr"
              onCommit={(late) => setHand({ late })}
            />
            <NumberRow
              id="set-every"
              label="Moving mouths: a drawing every"
              of="MouthChart.every"
              value={chart.every}
              unit="fr"
              onCommit={(every) => put({ every })}
            />
            <NumberRow
              id="set-blend"
              label="Blend into the next over"
              of="MouthChart.blend"
              value={chart.blend}
              unit="fr"
              onCommit={(blend) => put({ blend })}
            />
          </div>
          <form
            className="d-flex gap-1 mt-1"
            onSubmit={(e) => {
              e.preventDefault();
              if (name.trim()) put({ moods: [...(chart.moods ?? [PLAIN]), name.trim()] });
              setName("");
            }}
          >
            <input
              className="form-control form-control-sm"
              aria-label="New mood"
              placeholder="New mood"
              value={name}
              maxLength={40}
              onChange={(e) => setName(e.target.value)}
            />
            <Button size="sm" type="submit" variant="outline-primary" className="text-nowrap">
              Add
            </Button>
          </form>
          <div className="d-flex gap-1 mt-1">
            <Button
              size="sm"
              variant="outline-primary"
              onClick={() => {
                void submit({ do: "set-mouth", puppet: puppet.id, mouth: freshId(), name: "new mouth" });
              }}
            >
              Add a mouth
            </Button>
            <Button
              size="sm"
              variant="outline-primary"
              onClick={() => void submit({ do: "set-mouths", puppet: puppet.id, chart: null })}
            >
              Take the chart away
            </Button>
          </div>
        </div>
      )}
    </div>
  );
}
