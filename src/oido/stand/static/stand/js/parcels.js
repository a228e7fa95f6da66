/**
 * What one recording sends: a take, then passes into it where it goes round and round; or a pass into a
 * take that is there.
 *
 * @typedef {{takeId: string, way: PassBody["way"]}} Into  a take into which a pass is laid
 */
import { NOTE_OFF, NOTE_ON } from "../../common/js/sound.js";

const KEPT_EVERY_MS = 1000;
const HIT_S = 0.1;

export class Parcels {
  /**
   * @param {{root: HTMLElement, data: StandData, check: import("./input_check.js").InputCheck, pads: import("./pads.js").Pads,
   *   latency: import("./latency.js").Latency, outbox: import("./outbox_line.js").Sink}} stand
   * @param {{into: Into | null, bpm: number, bars: PlainBar[], chosen: Chosen}} what
   */
  constructor(stand, { into, bpm, bars, chosen }) {
    this.stand = stand;
    /** @type {Into | null} none for a take of its own */
    this.target = into;
    this.bpm = bpm;
    this.bars = bars;
    this.chosen = chosen;
    this.recordedAt = Date.now();
    this.sent = 0;
    this.id = crypto.randomUUID();
    this.timer = 0;
  }

  /** Keep what is played, second by second: this page may be closed at any time.
   * @param {import("../../common/js/playing/recorder.js").Recorder} recorder */
  keep(recorder) {
    this.timer = window.setInterval(() => {
      // What is found again is what was there when the page was closed.
      if (recorder.events.length > 0) this.stand.outbox.keep(this.parcel(recorder.ofRound(recorder.events), "closed"));
    }, KEPT_EVERY_MS);
  }

  /** What was kept of a recording that is not sent, is not wanted any more. */
  stopKeeping() {
    window.clearInterval(this.timer);
    this.stand.outbox.drop(this.id);
  }

  /** @param {RawEvent[]} events @param {Ending} ending @returns {boolean} false if there is nothing in them to send */
  send(events, ending = "itself") {
    const mine = this.mine(events);
    if (mine.length === 0) return false;
    this.stand.outbox.add(this.parcel(mine, ending === "again" ? "stopped" : ending));
    this.target = { takeId: this.target?.takeId ?? this.id, way: "over" };
    this.id = crypto.randomUUID();
    this.sent += 1;
    return true;
  }

  /** Of a kit only the lanes that somebody said to play. @param {RawEvent[]} events */
  mine(events) {
    const { data, pads } = this.stand;
    const lanes = data.hasLanes ? this.chosen.mine : [];
    return events.filter(([, status, number]) => {
      const isNote = (status & 0xf0) === NOTE_ON || (status & 0xf0) === NOTE_OFF;
      return lanes.length === 0 || !isNote || lanes.includes(data.lanes[pads.meant(number)]);
    });
  }

  /** What was just played, to sound along in the next round. @param {RawEvent[]} events @returns {PlainNote[]} */
  heard(events) {
    const { latency, pads } = this.stand;
    return this.mine(events)
      .filter(([, status, , velocity]) => (status & 0xf0) === NOTE_ON && velocity > 0)
      .map(([time, , number, velocity]) => [(time - latency.offsetMs) / 1000, HIT_S, pads.meant(number), velocity]);
  }

  /** @param {RawEvent[]} events @param {NonNullable<TakeBody["ending"]>} ending @returns {Parcel} */
  parcel(events, ending) {
    const { root, data, check, pads, latency } = this.stand;
    const { id } = this;
    const user = root.dataset.user ?? "";
    /** @type {RecordedBody & {events: RawEvent[]}} */
    const body = {
      id, source: check.kind, device: check.device.slice(0, 120), latency_ms: latency.offsetMs, pads: pads.map,
      // Parcels of one recording are sent in order of time.
      recorded_at: new Date(this.recordedAt + this.sent).toISOString(), events: this.mine(events),
    };
    if (!this.target) {
      const ownKey = data.fifths === data.ownFifths ? null : data.fifths;
      return { id, user, url: root.dataset.upload ?? "", body: { ...body, part: data.part, tempo_bpm: this.bpm.toFixed(2), fifths: ownKey, heard_click: data.click.on, ending } };
    }
    const [first, last] = [this.bars[0], this.bars[this.bars.length - 1]];
    const lanes = data.hasLanes ? this.chosen.mine : [];
    const stretch = { way: this.target.way, from_ms: 1000 * first.start, until_ms: 1000 * last.end, lanes };
    return { id, user, url: `/takes/${this.target.takeId}/passes/`, body: { ...body, ...stretch } };
  }
}
