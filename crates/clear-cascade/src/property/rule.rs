//! The names of the computed-value rules that the table gives to properties.

/// What a computed value is, beyond the specified one with its lengths, colours and URLs made absolute: the "Computed value"
/// line of the standard, and the shortest notation in which browsers write it (CSSOM 1, §6.7.2).
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Rule {
    /// Nothing more.
    AsSpecified,
    /// Two alike are one.
    AlikePair,
    /// In each layer, two alike are one.
    AlikePairs,
    /// Names without quotes.
    AnimationNames,
    /// A ratio of two numbers.
    AspectRatio,
    /// Offsets along an axis.
    AxisPositions,
    /// `baseline` for `first baseline`.
    Baseline,
    /// A length; `baseline` is none.
    BaselineShift,
    /// Whole numbers for as few sides as will do.
    BorderImageSlice,
    /// The four edges of `rect()` with commas (CSS Masking 1, "clip").
    Clip,
    /// `currentcolor` is the parent's.
    Color,
    /// `only` last.
    ColorScheme,
    /// `strict` and `content` for what they stand for.
    Contain,
    /// `counter()` without `decimal`.
    Content,
    /// The name of a counter style that is there from the start is in lower case.
    CounterStyle,
    /// `superellipse()`.
    CornerShape,
    /// A whole number that is held in 16 bits.
    Count,
    /// Counters with their numbers.
    Counters,
    /// Hot spots in whole numbers.
    Cursor,
    /// The shortest of the notations of a display type.
    Display,
    /// `auto` is 0s.
    Durations,
    /// Without `wrap` beside `balance`.
    FlexWrap,
    /// Names of several words as one.
    FontFamily,
    /// Tags in order, each once.
    FontFeatureSettings,
    /// A length, of keywords and the parent's size.
    FontSize,
    /// Without `ex-height`.
    FontSizeAdjust,
    /// An angle in quarters of a degree.
    FontStyle,
    /// Functions in their order.
    FontVariantAlternates,
    /// `none` for what it stands for.
    FontVariantLigatures,
    /// The same, with numbers.
    FontVariationSettings,
    /// A number, of keywords and the parent's weight.
    FontWeight,
    /// A percentage.
    FontWidth,
    /// Rows of names.
    GridAreas,
    /// Without `row` beside `dense`.
    GridAutoFlow,
    /// A line; a span of one goes without its number.
    GridLine,
    /// Tracks without empty lists of names.
    GridTracks,
    /// Without `auto` at the end.
    HyphenateLimitChars,
    /// The same, and `normal` for a lone `legacy`.
    JustifyItems,
    /// How images repeat.
    LayerRepeats,
    /// Sizes of images.
    LayerSizes,
    /// Nothing is `normal`.
    LetterSpacing,
    /// A number or a length.
    LineHeight,
    /// The width of a line: whole pixels (CSS Borders 4, §3.3).
    LineWidth,
    /// The widths of lines.
    LineWidths,
    /// A number, of the parent's depth.
    MathDepth,
    /// `auto` or `reverse` first, angles in degrees.
    OffsetRotate,
    /// A number from 0 to 1.
    Opacity,
    /// Whole pixels (CSS Basic User Interface 4, §4.5).
    OutlineOffset,
    /// Without `padding-box`.
    OverflowClipMargin,
    /// The shortest list that gives the order.
    PaintOrder,
    /// One is two.
    Pair,
    /// Positions as two offsets.
    Positions,
    /// Names of properties in lower case.
    PropertyNames,
    /// An axis by name where it has one.
    Rotate,
    /// Numbers, as few as will do.
    Scale,
    /// With `links`.
    ScrollMarkerGroup,
    /// Without `proximity`.
    ScrollSnapType,
    /// Shadows with all their parts.
    Shadows,
    /// A basic shape and a box.
    Shape,
    /// Values for as few sides as will do.
    Sides,
    /// A length, which may go without a unit (SVG 2, §4.2.1).
    SvgLength,
    /// A list of such lengths.
    SvgLengths,
    /// `match-parent` is what the parent has.
    TextAlign,
    /// Without `right`.
    TextEmphasisPosition,
    /// A shape for the direction of text.
    TextEmphasisStyle,
    /// Without `consistent`.
    TextFit,
    /// Rectangles as `inset()`.
    Shapes,
    /// Ranges without the offset that goes without saying.
    TimelineRanges,
    /// Steps as functions.
    TimingFunctions,
    /// `manipulation` for what it stands for.
    TouchAction,
    /// Functions of transforms.
    Transform,
    /// A position as two or three offsets.
    TransformOrigin,
    /// Lengths, as few as will do.
    Translate,
    /// `normal` is nothing.
    WordSpacing,
    /// A number.
    Zoom,
}
