//! Units (CSS Values 4, §6 and §7).

/// What a unit measures.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) enum Dimension {
    /// Lengths, in px.
    Length,
    /// Angles, in deg.
    Angle,
    /// Times, in s.
    Time,
    /// Frequencies, in Hz.
    Frequency,
    /// Resolutions, in dppx.
    Resolution,
    /// Shares of free space, in fr.
    Flex,
}

/// A unit.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[allow(missing_docs, clippy::missing_docs_in_private_items)]
pub(crate) enum Unit {
    Px,
    Cm,
    Mm,
    Q,
    In,
    Pt,
    Pc,
    Em,
    Rem,
    Ex,
    Rex,
    Ch,
    Rch,
    Cap,
    Rcap,
    Ic,
    Ric,
    Lh,
    Rlh,
    Vw,
    Vh,
    Vi,
    Vb,
    Vmin,
    Vmax,
    Deg,
    Grad,
    Rad,
    Turn,
    S,
    Ms,
    Hz,
    Khz,
    Dppx,
    Dpi,
    Dpcm,
    Fr,
}

/// Units by name; viewport units of all sizes are the same where nothing scrolls away.
const UNITS: &[(&str, Unit)] = &[
    ("px", Unit::Px),
    ("cm", Unit::Cm),
    ("mm", Unit::Mm),
    ("q", Unit::Q),
    ("in", Unit::In),
    ("pt", Unit::Pt),
    ("pc", Unit::Pc),
    ("em", Unit::Em),
    ("rem", Unit::Rem),
    ("ex", Unit::Ex),
    ("rex", Unit::Rex),
    ("ch", Unit::Ch),
    ("rch", Unit::Rch),
    ("cap", Unit::Cap),
    ("rcap", Unit::Rcap),
    ("ic", Unit::Ic),
    ("ric", Unit::Ric),
    ("lh", Unit::Lh),
    ("rlh", Unit::Rlh),
    ("vw", Unit::Vw),
    ("svw", Unit::Vw),
    ("lvw", Unit::Vw),
    ("dvw", Unit::Vw),
    ("cqw", Unit::Vw),
    ("vh", Unit::Vh),
    ("svh", Unit::Vh),
    ("lvh", Unit::Vh),
    ("dvh", Unit::Vh),
    ("cqh", Unit::Vh),
    ("vi", Unit::Vi),
    ("svi", Unit::Vi),
    ("lvi", Unit::Vi),
    ("dvi", Unit::Vi),
    ("cqi", Unit::Vi),
    ("vb", Unit::Vb),
    ("svb", Unit::Vb),
    ("lvb", Unit::Vb),
    ("dvb", Unit::Vb),
    ("cqb", Unit::Vb),
    ("vmin", Unit::Vmin),
    ("svmin", Unit::Vmin),
    ("lvmin", Unit::Vmin),
    ("dvmin", Unit::Vmin),
    ("cqmin", Unit::Vmin),
    ("vmax", Unit::Vmax),
    ("svmax", Unit::Vmax),
    ("lvmax", Unit::Vmax),
    ("dvmax", Unit::Vmax),
    ("cqmax", Unit::Vmax),
    ("deg", Unit::Deg),
    ("grad", Unit::Grad),
    ("rad", Unit::Rad),
    ("turn", Unit::Turn),
    ("s", Unit::S),
    ("ms", Unit::Ms),
    ("hz", Unit::Hz),
    ("khz", Unit::Khz),
    ("dppx", Unit::Dppx),
    ("x", Unit::Dppx),
    ("dpi", Unit::Dpi),
    ("dpcm", Unit::Dpcm),
    ("fr", Unit::Fr),
];

/// What relative units are relative to.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Context {
    /// Font size of the element, in px.
    pub(crate) font_size: f64,
    /// Font size of the root, in px.
    pub(crate) root_font_size: f64,
    /// Line height of the element, in px.
    pub(crate) line_height: f64,
    /// Line height of the root, in px.
    pub(crate) root_line_height: f64,
    /// Width and height of the viewport, in px.
    pub(crate) viewport: (f64, f64),
    /// Whether lines run from top to bottom.
    pub(crate) vertical: bool,
    /// Whether the page is in quirks mode.
    pub(crate) quirks: bool,
    /// The element's place among its siblings, from 1, and how many they are.
    pub(crate) sibling: (f64, f64),
}

impl Default for Context {
    /// The initial values, in a viewport of 1280 by 800 px.
    fn default() -> Self {
        Self {
            font_size: 16.0,
            root_font_size: 16.0,
            line_height: 19.2,
            root_line_height: 19.2,
            viewport: (1280.0, 800.0),
            vertical: false,
            quirks: false,
            sibling: (1.0, 1.0),
        }
    }
}

impl Unit {
    /// The unit with this name, in any case.
    pub(crate) fn named(name: &str) -> Option<Self> {
        UNITS.iter().find(|(n, _)| n.eq_ignore_ascii_case(name)).map(|(_, u)| *u)
    }

    /// The names of all units.
    pub(crate) fn names() -> impl Iterator<Item = &'static str> {
        UNITS.iter().map(|(name, _)| *name)
    }

    /// Its name, in lower case as CSSOM writes it.
    pub(crate) fn name(self) -> &'static str {
        UNITS.iter().find(|(_, u)| *u == self).map_or("", |(n, _)| n)
    }

    /// What it measures.
    pub(crate) fn dimension(self) -> Dimension {
        match self {
            Self::Deg | Self::Grad | Self::Rad | Self::Turn => Dimension::Angle,
            Self::S | Self::Ms => Dimension::Time,
            Self::Hz | Self::Khz => Dimension::Frequency,
            Self::Dppx | Self::Dpi | Self::Dpcm => Dimension::Resolution,
            Self::Fr => Dimension::Flex,
            _ => Dimension::Length,
        }
    }

    /// Whether it is the one in which computed values of its dimension are given.
    pub(crate) fn is_canonical(self) -> bool {
        matches!(self, Self::Px | Self::Deg | Self::S | Self::Hz | Self::Dppx | Self::Fr)
    }

    /// Whether it needs nothing to be relative to.
    pub(crate) fn is_absolute(self) -> bool {
        self.dimension() != Dimension::Length
            || matches!(self, Self::Px | Self::Cm | Self::Mm | Self::Q | Self::In | Self::Pt | Self::Pc)
    }

    /// Whether it goes by a font or by the height of lines.
    pub(crate) fn is_of_font(self) -> bool {
        !self.is_absolute() && !matches!(self, Self::Vw | Self::Vh | Self::Vi | Self::Vb | Self::Vmin | Self::Vmax)
    }

    /// What one of a relative unit is relative to, in words; nothing for absolute ones.
    pub(crate) fn relative_to(self) -> Option<&'static str> {
        Some(match self {
            Self::Em => "font-size of the element",
            Self::Ex | Self::Ch | Self::Cap | Self::Ic => {
                "font-size of the element, taken as a share of it: the font file is not read"
            }
            Self::Rem => "font-size of the root",
            Self::Rex | Self::Rch | Self::Rcap | Self::Ric => {
                "font-size of the root, taken as a share of it: the font file is not read"
            }
            Self::Lh => "line-height of the element",
            Self::Rlh => "line-height of the root",
            Self::Vw => "viewport width / 100",
            Self::Vh => "viewport height / 100",
            Self::Vi => "viewport size along the line / 100",
            Self::Vb => "viewport size across lines / 100",
            Self::Vmin => "smaller side of the viewport / 100",
            Self::Vmax => "larger side of the viewport / 100",
            _ => return None,
        })
    }

    /// A number of this unit in the canonical unit of its dimension, and that unit.
    pub(crate) fn canonical(self, n: f64, context: &Context) -> (f64, Self) {
        let (w, h) = context.viewport;
        let per = match self {
            Self::Px | Self::Deg | Self::S | Self::Hz | Self::Dppx | Self::Fr => 1.0,
            Self::Cm => 96.0 / 2.54,
            Self::Mm => 96.0 / 25.4,
            Self::Q => 96.0 / 101.6,
            Self::In => 96.0,
            Self::Pt => 96.0 / 72.0,
            Self::Pc => 16.0,
            Self::Em | Self::Ic => context.font_size,
            Self::Rem | Self::Ric => context.root_font_size,
            // Without font files: half an em (CSS Values 4, §6.1.1), and the whole for capitals where ascent is unknown.
            Self::Ex | Self::Ch => context.font_size * 0.5,
            Self::Rex | Self::Rch => context.root_font_size * 0.5,
            Self::Cap => context.font_size,
            Self::Rcap => context.root_font_size,
            Self::Lh => context.line_height,
            Self::Rlh => context.root_line_height,
            Self::Vw => w / 100.0,
            Self::Vh => h / 100.0,
            Self::Vi => {
                if context.vertical {
                    h / 100.0
                } else {
                    w / 100.0
                }
            }
            Self::Vb => {
                if context.vertical {
                    w / 100.0
                } else {
                    h / 100.0
                }
            }
            Self::Vmin => w.min(h) / 100.0,
            Self::Vmax => w.max(h) / 100.0,
            Self::Grad => 0.9,
            Self::Rad => 180.0 / std::f64::consts::PI,
            Self::Turn => 360.0,
            Self::Ms => 0.001,
            Self::Khz => 1000.0,
            Self::Dpi => 1.0 / 96.0,
            Self::Dpcm => 2.54 / 96.0,
        };
        let unit = match self.dimension() {
            Dimension::Length => Self::Px,
            Dimension::Angle => Self::Deg,
            Dimension::Time => Self::S,
            Dimension::Frequency => Self::Hz,
            Dimension::Resolution => Self::Dppx,
            Dimension::Flex => Self::Fr,
        };
        (n * per, unit)
    }
}
