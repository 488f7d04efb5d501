/** What lies over the stage of the Rig bench besides the skeleton: meshes, and the brush. */
import { useShallow } from "zustand/react/shallow";
import { placed } from "../../geometry";
import { useWorkshop } from "../../session";
import { jointPlace, pieceMatrix, sceneAt } from "../../stage/scene";
import type { Point, Puppet } from "../../wire/types";

/** How far the brush reaches. */
export function BrushRing({ at, radius, to }: { at: Point; radius: number; to: (p: Point) => Point }) {
  const [x, y] = to(at);
  return (
    <circle
      cx={x}
      cy={y}
      r={to([at[0] + radius, 0])[0] - x}
      fill="var(--violet)"
      fillOpacity={0.12}
      stroke="var(--violet)"
      strokeDasharray="4 3"
    />
  );
}

/** The mesh of the selected piece over its picture, shaded by the selected joint's weights. */
export function MeshOver({ puppet, piece, to }: { puppet: Puppet; piece: string; to: (p: Point) => Point }) {
  const { plan, pose, mesh } = useWorkshop(useShallow((w) => ({ plan: w.plan, pose: w.pose, mesh: w.mesh })));
  const scene = sceneAt(plan, pose, 0);
  const m = scene && pieceMatrix(scene, piece);
  if (!m || !mesh || mesh.piece !== piece || plan?.puppet !== puppet.id) return null;
  const place = (i: number): Point => {
    return to(placed(m, [mesh.vertices[i * 2]!, mesh.vertices[i * 2 + 1]!]));
  };
  const attach = puppet.pieces?.[piece]?.attach;
  // How far around handles patches turn with them, in units of the drawing.
  const patches = attach?.kind === "sheet" ? Object.entries(attach.turning ?? {}) : [];
  const shades = new Map<number, string>();
  for (let t = 0; t < mesh.triangles.length; t += 3) {
    const corners = [mesh.triangles[t]!, mesh.triangles[t + 1]!, mesh.triangles[t + 2]!];
    const weight = mesh.weights ? corners.reduce((sum, i) => sum + mesh.weights![i]!, 0) / 3 : 0;
    const step = Math.round(weight * 10);
    shades.set(
      step,
      `${shades.get(step) ?? ""}M${corners
        .map((i) =>
          place(i)
            .map((v) => v.toFixed(1))
            .join(" "),
        )
        .join("L")}Z`,
    );
  }
  return (
    <g pointerEvents="none" data-mesh={piece}>
      {[...shades].map(([step, d]) => (
        <path
          key={step}
          d={d}
          fill="var(--rust)"
          fillOpacity={mesh.weights ? step * 0.075 : 0}
          stroke="var(--ink)"
          strokeOpacity={0.35}
          strokeWidth={0.7}
        />
      ))}
      {patches.map(([id, far]) => {
        const at = jointPlace(scene, id);
        if (!at) return null;
        const [x, y] = to(at);
        const r = far * Math.sqrt(Math.abs(m[0]! * m[3]! - m[1]! * m[2]!));
        return (
          <circle
            key={id}
            data-patch={id}
            cx={x}
            cy={y}
            r={to([at[0] + r, at[1]])[0] - x}
            fill="var(--rust)"
            fillOpacity={0.15}
            stroke="var(--rust)"
            strokeDasharray="4 3"
          />
        );
      })}
    </g>
  );
}
