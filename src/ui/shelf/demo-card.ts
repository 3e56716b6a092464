/** What the shelf shows of a demo job before it is taken in. */
export interface DemoCard {
  readonly id: string;
  readonly order: number;
  readonly title: string;
  readonly caption: string;
  /** What the client wants gone. */
  readonly asked: string;
  readonly mends: number;
  readonly width: number;
  readonly height: number;
}
