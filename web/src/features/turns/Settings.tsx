/** The settings of a turn, by its kind. */
import { AlignSettings, LevelSettings, SumSettings } from "./settings/Amounts";
import { CentreSettings } from "./settings/Centre";
import type { SettingsProps } from "./settings/common";
import { FoldSettings } from "./settings/Fold";
import { MatrixSettings } from "./settings/Matrix";
import { MergeSettings } from "./settings/Merge";
import { DecodeSettings, EncodeSettings, WidthSettings } from "./settings/MidSide";
import { PolaritySettings } from "./settings/Polarity";
import { SplitSettings } from "./settings/Split";

export function Settings(rest: Omit<SettingsProps<never>, "turn">) {
  const { turn } = rest.step;
  switch (turn.kind) {
    case "merge":
      return <MergeSettings turn={turn} {...rest} />;
    case "split":
      return <SplitSettings turn={turn} {...rest} />;
    case "swap":
      return null;
    case "polarity":
      return <PolaritySettings turn={turn} {...rest} />;
    case "encode":
      return <EncodeSettings turn={turn} {...rest} />;
    case "decode":
      return <DecodeSettings turn={turn} {...rest} />;
    case "width":
      return <WidthSettings turn={turn} {...rest} />;
    case "fold":
      return <FoldSettings turn={turn} {...rest} />;
    case "matrix":
      return <MatrixSettings turn={turn} {...rest} />;
    case "sum":
      return <SumSettings turn={turn} {...rest} />;
    case "level":
      return <LevelSettings turn={turn} {...rest} />;
    case "align":
      return <AlignSettings turn={turn} {...rest} />;
    case "centre":
      return <CentreSettings turn={turn} {...rest} />;
    default:
      return turn satisfies never;
  }
}
