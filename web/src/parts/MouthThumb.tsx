/** Mouths in small: the drawing, or the place of the dial, that shows one. */
import { DrawingThumb } from "./PieceSheet";
import type { Drawing, Mouth, MouthChart, Puppet } from "../wire/types";

/** The mouth that each value of the chart's channel shows. */
export function mouthsByValue(chart: MouthChart): Map<number, Mouth> {
  const found = new Map<number, Mouth>();
  for (const mouth of Object.values(chart.mouths ?? {}))
    for (const values of Object.values(mouth.shows ?? {}))
      for (const value of values) if (!found.has(value)) found.set(value, mouth);
  return found;
}

/** The drawing behind a value of the chart's channel: of the piece, or of the dial's stop at that place. */
export function drawingOf(puppet: Puppet, chart: MouthChart, value: number): Drawing | null {
  if (chart.piece) return puppet.pieces?.[chart.piece]?.drawings.find((d) => d.number === value) ?? null;
  const stops = puppet.dials?.[chart.dial ?? ""]?.stops ?? [];
  const stop = stops.findLast((s) => s.at <= value) ?? stops[0];
  for (const [channel, numbers] of Object.entries(stop?.values ?? {})) {
    const piece = channel.endsWith(".show") ? puppet.pieces?.[channel.slice(0, -5)] : undefined;
    const drawing = piece?.drawings.find((d) => d.number === numbers[0]);
    if (drawing) return drawing;
  }
  return null;
}

interface Props {
  puppet: Puppet;
  chart: MouthChart;
  value: number;
  width: number;
  height: number;
}

export function MouthThumb({ puppet, chart, value, width, height }: Props) {
  const drawing = drawingOf(puppet, chart, value);
  if (!drawing) return <span className="no-drawing">{Math.round(value * 10) / 10}</span>;
  return <DrawingThumb drawing={drawing} width={Math.round(width)} height={Math.round(height)} />;
}
