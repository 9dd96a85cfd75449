import { Frame } from "@/ui/frame";
import { LiveBanner } from "./live/live-banner";
import { useChanges } from "./live/use-changes";
import { useLinked } from "./live/use-live";

/** What stands around every page: the frame, the light of the connection, the live run at the foot. */
export function Shell() {
  useChanges();
  return <Frame foot={<LiveBanner />} linked={useLinked()} />;
}
