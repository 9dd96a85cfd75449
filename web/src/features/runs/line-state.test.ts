import { describe, expect, it } from "vitest";
import type { Place } from "../ladder/place";
import {
  dropped,
  EMPTY,
  found,
  isAhead,
  logged,
  loggedAndOn,
  queued,
  refused,
  sending,
  shownLine,
  takenBack,
  typed,
  type Sent,
} from "./line-state";

const HERE: Place = { rung: "mono@4@40", mode: "certified" };
const NEXT: Place = { rung: "mono@4@40", mode: "clipping" };
const sent = (line: string, place = HERE): Sent => ({ place, line, key: "k", unknown: false });
const onItsWay = () => sending(typed(EMPTY, HERE, "447 14.38 41.2"), sent("447 14.38 41.2"));

describe("the line", () => {
  it("keeps a draft at each place", () => {
    const state = typed(typed(EMPTY, HERE, "447"), NEXT, "462");
    expect([shownLine(state, HERE), shownLine(state, NEXT)]).toEqual(["447", "462"]);
    expect(typed(state, HERE, "").drafts).toEqual({ "mono@4@40 clipping": "462" });
  });

  it("takes what is typed while a line is on its way to the next place", () => {
    const state = typed(onItsWay(), HERE, "462 14.3");
    expect(isAhead(state)).toBe(true);
    expect(shownLine(logged(state, NEXT), NEXT)).toBe("462 14.3");
  });

  it("sends lines that were ended meanwhile in the order they were typed, whatever is typed behind them", () => {
    const two = queued(typed(queued(typed(onItsWay(), HERE, "462")), HERE, "489"));
    expect(two.waiting).toEqual(["462", "489"]);
    const on = loggedAndOn(typed(two, HERE, "771"), sent("462", NEXT));
    expect([on.waiting, on.ahead]).toEqual([["489"], "771"]);
    expect(queued(onItsWay()).waiting).toEqual([]);
  });

  it("puts a refused line back, or above the line when something else was typed", () => {
    const back = refused(onItsWay(), "Too little.", [], 7);
    expect([shownLine(back, HERE), back.why?.says, back.sent]).toEqual(["447 14.38 41.2", "Too little.", null]);
    const beside = refused(typed(onItsWay(), HERE, "462"), "Too little.", ["More out than in."], 7);
    expect([beside.refused?.line, shownLine(beside, HERE)]).toEqual(["447 14.38 41.2", "462"]);
    const again = takenBack(beside);
    expect([shownLine(again, HERE), again.waiting, again.refused]).toEqual(["447 14.38 41.2", ["462"], null]);
    expect(dropped(again, 0).waiting).toEqual([]);
  });

  it("loses nothing that was typed before the page was there, and logs none of it unseen", () => {
    const state = found(EMPTY, HERE, ["447 14.38 41.2", "", "462"]);
    expect([shownLine(state, HERE), state.waiting]).toEqual(["447 14.38 41.2", ["462"]]);
    expect(shownLine(found(typed(EMPTY, HERE, "44"), HERE, ["7"]), HERE)).toBe("447");
    expect(found(EMPTY, HERE, ["  "])).toBe(EMPTY);
  });
});
