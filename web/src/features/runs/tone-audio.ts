let context: AudioContext | null = null;
let playing: { source: AudioBufferSourceNode; gain: GainNode } | null = null;

/** Time over which a tone comes and goes, so that nothing clicks. */
const FADE_S = 0.02;

const audio = () => (context ??= new AudioContext());

/** Plays a tone over and over until it is stopped. */
export async function play(url: string): Promise<void> {
  stop();
  const answer = await fetch(url);
  if (!answer.ok) throw new Error("This tone cannot be played.");
  const at = audio();
  const buffer = await at.decodeAudioData(await answer.arrayBuffer());
  stop();
  const gain = new GainNode(at, { gain: 0 });
  const source = new AudioBufferSourceNode(at, { buffer, loop: true });
  source.connect(gain).connect(at.destination);
  gain.gain.linearRampToValueAtTime(1, at.currentTime + FADE_S);
  source.start();
  playing = { source, gain };
}

/** Stops whatever plays. */
export function stop(): void {
  if (!playing) return;
  const { source, gain } = playing;
  const at = audio();
  gain.gain.cancelScheduledValues(at.currentTime);
  gain.gain.setValueAtTime(gain.gain.value, at.currentTime);
  gain.gain.linearRampToValueAtTime(0, at.currentTime + FADE_S);
  source.stop(at.currentTime + 2 * FADE_S);
  playing = null;
}

/** A short quiet note. */
export function chime(): void {
  const at = audio();
  const gain = new GainNode(at, { gain: 0 });
  const note = new OscillatorNode(at, { frequency: 660 });
  note.connect(gain).connect(at.destination);
  gain.gain.linearRampToValueAtTime(0.05, at.currentTime + 0.03);
  gain.gain.linearRampToValueAtTime(0, at.currentTime + 0.5);
  note.start();
  note.stop(at.currentTime + 0.55);
}
