import type { Schemas } from "@/api/client";

type Amplifier = Schemas["Amplifier"];
export type ControlKind = Schemas["ControlKind"];

/** The rest of the record, as its form holds it: text as typed. */
export interface RecordFields {
  serial: string;
  year: string;
  topology: "" | Schemas["Topology"];
  outputFuses: string;
  inputs: string;
  controls: { kind: ControlKind; from: string; to: string; range: string; out: boolean }[];
  powerTerminal: string;
  speakerTerminal: string;
  length: string;
  width: string;
  height: string;
  weight: string;
  accessories: string;
  state: "" | Schemas["State"];
  history: string;
  limited: boolean;
  lentBy: string;
  backBy: string;
  railV: string;
  notes: string;
}

/** An amplifier as its form holds it: text as typed. */
export interface AmplifierFields extends RecordFields {
  make: string;
  model: string;
  class: Amplifier["class"];
  purpose: Amplifier["purpose"];
  supply: Amplifier["supply_type"];
  channels: string;
  fuses: string;
  outside: string;
  maxSupply: string;
  floors: { wiring: string; load: string }[];
  price: string;
  currency: string;
  on: string;
  provenance: Amplifier["provenance"];
}
