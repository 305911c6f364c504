import type { Schemas } from "../api/client";

export type Gate = Schemas["Take"]["gate"];

/** How far the gate is from the centre at a bearing, %. An octagon has corners at the eight ways. */
export function gateRadius(gate: Gate, bearing: number): number {
  const a = (bearing * Math.PI) / 180;
  if (gate === "square") return 100 / Math.max(Math.abs(Math.cos(a)), Math.abs(Math.sin(a)));
  if (gate === "octagon") {
    const side = Math.PI / 4;
    const off = (((a % side) + side) % side) - side / 2;
    return (100 * Math.cos(side / 2)) / Math.cos(off);
  }
  return 100;
}

/** The gate, drawn 100 units out. */
export function GateOutline({ gate, className = "gate" }: { gate: Gate; className?: string }) {
  if (gate === "square") {
    return <rect className={className} x={-100} y={-100} width={200} height={200} />;
  }
  if (gate === "octagon") {
    const corners = Array.from({ length: 8 }, (_, i) => {
      const a = (i * Math.PI) / 4;
      return `${100 * Math.sin(a)} ${-100 * Math.cos(a)}`;
    });
    return <path className={className} d={`M${corners.join("L")}Z`} />;
  }
  return <circle className={className} r={100} />;
}
