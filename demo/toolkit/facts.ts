/** What `scene.json` tells about a finished photograph. Points are pixels of the photo. */
export interface SceneFacts {
  readonly id: string;
  readonly order: number;
  readonly title: string;
  readonly caption: string;
  /** What a client asked for. */
  readonly asked: string;
  readonly width: number;
  readonly height: number;
  readonly things: readonly ThingFacts[];
  readonly planes: readonly { readonly id: string; readonly corners: readonly Point[] }[];
  readonly lines: readonly { readonly id: string; readonly from: Point; readonly to: Point }[];
}

export interface ThingFacts {
  readonly id: string;
  readonly says: string;
  /** Mask of the thing itself. */
  readonly mask: string;
  /** Mask of its shadow or reflection, where it has one. */
  readonly cast?: string;
}

type Point = readonly [x: number, y: number];
