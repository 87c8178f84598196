/** What moves the pictures: which one is shown, the stretch of time in it, and how high it is drawn. */
import type { StoreApi } from "zustand/vanilla";
import { HEIGHTS, type ListenState } from "./listenState";
import { acceptedPicture, nextPicture, type PictureName } from "./pictureNames";
import type { Player } from "./player";
import { pan, resized, showAll, showRange, zoom } from "./viewport";

export class Look {
  constructor(
    private readonly store: StoreApi<ListenState>,
    private readonly player: Player,
  ) {}

  /** The frame that is heard, as a pixel of the time axis. */
  playhead() {
    const { viewport } = this.state;
    return (this.player.position - viewport.start) / viewport.scale;
  }

  setPicture(picture: PictureName) {
    this.set({ picture });
  }

  nextPicture() {
    const { picture, channels } = this.state;
    this.set({ picture: nextPicture(acceptedPicture(picture, channels), channels) });
  }

  setMidSide(midSide: boolean) {
    this.set({ midSide });
  }

  point(pointed: number | null) {
    this.set({ pointed });
  }

  pointAt(pointedFrame: number | null) {
    this.set({ pointedFrame });
  }

  /** The time axis has another width: the same stretch of time fills it. */
  setWidth(width: number) {
    const { viewport, frames, width: before } = this.state;
    if (width !== before) this.set({ width, viewport: resized(viewport, before, width, frames) });
  }

  zoomAt(factor: number, x: number) {
    const { viewport, frames, width } = this.state;
    this.set({ viewport: zoom(viewport, factor, x, frames, width) });
  }

  /** Zoom about the playhead where it is seen, else about the middle. */
  zoomBy(factor: number) {
    const { width } = this.state;
    const x = this.playhead();
    this.zoomAt(factor, x >= 0 && x <= width ? x : width / 2);
  }

  pan(pixels: number) {
    const { viewport, frames, width } = this.state;
    this.set({ viewport: pan(viewport, pixels, frames, width) });
  }

  fit() {
    this.set({ viewport: showAll(this.state.frames, this.state.width) });
  }

  showRange() {
    const { range, width } = this.state;
    if (range) this.set({ viewport: showRange(range, width) });
  }

  /** While playing, turn the page to the playhead. */
  follow() {
    if (this.state.playing) this.pan(this.playhead());
  }

  enlarge(by: number) {
    this.set({ fitHeight: false, height: Math.max(0, Math.min(HEIGHTS.length - 1, this.state.height + by)) });
  }

  toggleFitHeight() {
    this.set({ fitHeight: !this.state.fitHeight });
  }

  private get state() {
    return this.store.getState();
  }

  private set(change: Partial<ListenState>) {
    this.store.setState(change);
  }
}
