//! Colours (CSS Color 4 and 5): read in every notation, mixed, and written as computed values.

mod names;
mod space;

pub(crate) use space::Space;

use std::sync::{Arc, OnceLock};

use super::math::{self, Math};
use super::unit::{Context, Unit};
use crate::document::Name;
use crate::limits::DEEPEST_COLOR;
use crate::syntax::{Kind, Slice, serialize_identifier};
use crate::syntax::{component_text, number_text};

/// A colour with nothing left to find out.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Color {
    /// The colour space.
    pub(crate) space: Space,
    /// Its components; sRGB from 0 to 1.
    pub(crate) c: [f64; 3],
    /// Opacity from 0 to 1.
    pub(crate) alpha: f64,
    /// Components that are `none`, by bit; alpha is bit 3.
    pub(crate) none: u8,
    /// Whether it is written in a notation that is serialised as `rgb()` (CSS Color 4, §15.2).
    pub(crate) legacy: bool,
}

/// A colour as specified.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum ColorValue {
    /// A colour with nothing left to find out.
    Absolute(Color),
    /// `currentcolor`
    Current,
    /// A system colour, in lower case.
    System(Name),
    /// `light-dark()`
    LightDark(Box<ColorValue>, Box<ColorValue>),
    /// `color-mix()`
    Mix(Box<Mix>),
    /// `contrast-color()`: black or white.
    Contrast(Box<ColorValue>),
    /// A colour function whose numbers wait for the element, or for the colour that it makes its own from.
    Function(Box<Function>),
    /// `alpha()`: a colour with another opacity.
    Alpha(Box<WithAlpha>),
}

/// `alpha(from color / opacity)` (CSS Color 5, §4.2)
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct WithAlpha {
    /// The colour.
    origin: ColorValue,
    /// Its new opacity; the channel `alpha` stands for the old one.
    alpha: Component,
}

impl WithAlpha {
    /// Reads the inside of `alpha()`.
    fn parse(inside: Slice<'_>, depth: u32) -> Option<Self> {
        let mut rest = inside;
        if !rest.is_ident("from") {
            return None;
        }
        rest.next();
        let (origin, alpha) = rest.split_at(|t| t.kind == Kind::Delim('/'));
        let alpha = Slice { from: alpha.from + 1, ..alpha }.trim();
        let alpha = component(alpha, 3, Space::Srgb, true)?;
        let others = |m: &Math| matches!(m, Math::Channel(name) if &**name != "alpha");
        if matches!(&alpha, Component::Math(math) if math.any(others)) {
            return None;
        }
        let read = Self { origin: parse_at(origin, depth + 1)?, alpha };
        read.color(Color::rgb(0.0, 0.0, 0.0, 1.0), false).map(|_| read)
    }

    /// The colour, given what its origin is, and whether that depends on `currentcolor`.
    fn color(&self, origin: Color, by_current: bool) -> Option<Color> {
        let opacity = Function {
            origin: Some(ColorValue::Current),
            space: Space::Srgb,
            parts: [Component::None, Component::None, Component::None, self.alpha.clone()],
        };
        let Color { alpha, none, .. } = opacity.color(Some(origin), &Context::default())?;
        let none = none & 8;
        let c = origin.cleared();
        // A notation of sRGB as it was always written stays one; `currentcolor` is none.
        if !origin.space.is_legacy() || (none == 0 && !by_current) {
            return Some(Color { c, alpha, none, legacy: origin.space.is_legacy(), ..origin });
        }
        Some(Color { space: Space::Srgb, c: origin.space.to_srgb(c), alpha, none, legacy: false })
    }
}

/// `color-mix()`
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Mix {
    /// The colour space it mixes in.
    space: Space,
    /// How hues are joined.
    hue: Hue,
    /// The two colours, with percentages where they are written.
    parts: [(ColorValue, Option<Math>); 2],
    /// What comes of it.
    known: Known,
}

/// The computed colour in a light scheme and in a dark one, where nothing else decides about it, once it has been asked for. It is no part
/// of what is written.
#[derive(Clone, Debug, Default)]
struct Known([OnceLock<Arc<ColorValue>>; 2]);

impl PartialEq for Known {
    fn eq(&self, _: &Self) -> bool {
        true
    }
}

/// How hues are joined (CSS Color 4, §12.4).
#[derive(Clone, Copy, Debug, PartialEq)]
enum Hue {
    /// The short way round.
    Shorter,
    /// The long way round.
    Longer,
    /// Upwards.
    Increasing,
    /// Downwards.
    Decreasing,
}

/// A colour function, as `lab(50 20 -30)` is, or `rgb(from red r g b)`.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Function {
    /// The colour it is made from, if from one (CSS Color 5, §4).
    origin: Option<ColorValue>,
    /// The space of its function.
    space: Space,
    /// Its components and alpha.
    parts: [Component; 4],
}

/// A component of a colour as written.
#[derive(Clone, Debug, PartialEq)]
enum Component {
    /// `none`
    None,
    /// A number, an angle in degrees, or a channel name in arithmetic.
    Math(Math),
}

impl Component {
    /// The component as text.
    fn text(&self) -> String {
        match self {
            Self::None => "none".to_owned(),
            Self::Math(math) => math.text(),
        }
    }
}

impl Hue {
    /// The words for it after the name of a space; the short way needs none.
    fn text(self) -> &'static str {
        match self {
            Self::Shorter => "",
            Self::Longer => " longer hue",
            Self::Increasing => " increasing hue",
            Self::Decreasing => " decreasing hue",
        }
    }
}

impl Color {
    /// An sRGB colour from components of 0 to 255.
    pub(crate) fn rgb(r: f64, g: f64, b: f64, alpha: f64) -> Self {
        Self { space: Space::Rgb, c: [r / 255.0, g / 255.0, b / 255.0], alpha, none: 0, legacy: true }
    }

    /// The components as 0 to 255, rounded, for notations that need them; opacity aside.
    pub(crate) fn to_rgb(self) -> [u8; 3] {
        let c = self.space.to_srgb(self.cleared());
        // Ties go up; the last digits are noise of the conversion.
        c.map(|v| ((v * 255.0 + 1e-9).round().clamp(0.0, 255.0)) as u8)
    }

    /// The opacity, 0 for `none`.
    fn opacity(self) -> f64 {
        if self.none & 8 != 0 { 0.0 } else { self.alpha }
    }

    /// The components with 0 for `none`.
    fn cleared(self) -> [f64; 3] {
        let mut c = self.c;
        for (i, v) in c.iter_mut().enumerate() {
            if self.none & (1 << i) != 0 {
                *v = 0.0;
            }
        }
        c
    }

    /// The same colour in another space; components that carry no meaning there are `none` (CSS Color 4, §12.2, §4.4).
    pub(crate) fn convert(self, to: Space) -> Self {
        if self.space == to {
            return self;
        }
        let c = to.components_of(self.space, self.cleared());
        let mut none = self.none & 8;
        for i in 0..3 {
            if self.none & (1 << i) != 0
                && let Some(role) = self.space.role(i)
                && let Some(other) = (0..3).find(|o| to.role(*o) == Some(role))
            {
                none |= 1 << other;
            }
        }
        // Two axes without a value are a chroma and hue without one, and the other way round; nothing is nothing.
        let missing = |bits: u8| bits != 0 && self.none & bits == bits;
        if missing(self.space.chromatic()) {
            none |= to.chromatic();
        }
        if missing(self.space.without_hue()) {
            none |= to.without_hue();
        }
        if missing(7) {
            none |= 7;
        }
        if let Some(hue) = to.hue()
            && to.is_achromatic(c)
        {
            none |= 1 << hue;
        }
        Self { space: to, c, none, legacy: false, ..self }
    }

    /// The colour once it is a computed value, for `currentcolor` and children: HSL and HWB made from other colours are sRGB
    /// then (CSS Color 5, §4.1).
    pub(crate) fn as_computed(self) -> Self {
        match self.space {
            Space::Hsl | Space::Hwb if !self.legacy => Self { none: self.none & 8, ..self.convert(Space::Srgb) },
            _ => self,
        }
    }

    /// The colour as a computed value is written (CSS Color 4, §15).
    pub(crate) fn text(&self) -> String {
        if self.legacy {
            let [r, g, b] = self.to_rgb();
            return if self.opacity() >= 1.0 {
                format!("rgb({r}, {g}, {b})")
            } else {
                format!("rgba({r}, {g}, {b}, {})", alpha_text(whole_steps(self.opacity())))
            };
        }
        let part = |i: usize| {
            if self.none & (1 << i) != 0 { "none".to_owned() } else { component_text(self.c[i]) }
        };
        let components = format!("{} {} {}", part(0), part(1), part(2));
        let alpha = if self.none & 8 != 0 {
            " / none".to_owned()
        } else if self.alpha >= 1.0 {
            String::new()
        } else {
            format!(" / {}", component_text(self.alpha))
        };
        match self.space {
            Space::Lab | Space::Lch | Space::Oklab | Space::Oklch => {
                format!("{}({components}{alpha})", self.space.name())
            }
            Space::Hsl | Space::Hwb => self.as_computed().text(),
            Space::Rgb => self.convert(Space::Srgb).text(),
            _ => format!("color({} {components}{alpha})", self.space.name()),
        }
    }
}

/// Opacity in the 256 steps of `rgba()`.
fn whole_steps(alpha: f64) -> f64 {
    (alpha.clamp(0.0, 1.0) * 255.0).round() / 255.0
}

/// Opacity as it is written in `rgba()`: two digits where they give the same of 256 steps, else three (CSSOM 1, §6.7.2).
fn alpha_text(alpha: f64) -> String {
    let two = (alpha * 100.0).round() / 100.0;
    let same = ((two * 255.0).round() - (alpha * 255.0).round()).abs() < 0.5;
    number_text(if same { two } else { (alpha * 1000.0).round() / 1000.0 })
}

/// Reads the one colour in a run.
pub(crate) fn parse(slice: Slice<'_>) -> Option<ColorValue> {
    parse_at(slice, 0)
}

/// Reads a colour that is inside so many others.
fn parse_at(slice: Slice<'_>, depth: u32) -> Option<ColorValue> {
    let slice = slice.trim();
    let token = slice.peek()?;
    let mut rest = slice;
    rest.next();
    if !rest.is_empty() || depth > DEEPEST_COLOR {
        return None;
    }
    match token.kind {
        Kind::Hash(_) => hex(&slice.name(token)).map(ColorValue::Absolute),
        Kind::Ident => named(&slice.name(token).to_ascii_lowercase()),
        Kind::Function(_) => function(&slice.name(token).to_ascii_lowercase(), slice.inside().trim(), depth),
        _ => None,
    }
}

/// A colour from 3, 4, 6 or 8 hexadecimal digits.
fn hex(digits: &str) -> Option<Color> {
    let value: Vec<u32> = digits.chars().map(|c| c.to_digit(16)).collect::<Option<_>>()?;
    let pairs: Vec<f64> = match value.len() {
        3 | 4 => value.iter().map(|d| f64::from(d * 17)).collect(),
        6 | 8 => value.chunks(2).map(|p| f64::from(p[0] * 16 + p[1])).collect(),
        _ => return None,
    };
    Some(Color::rgb(pairs[0], pairs[1], pairs[2], pairs.get(3).map_or(1.0, |a| a / 255.0)))
}

/// A colour by name, in lower case.
fn named(name: &str) -> Option<ColorValue> {
    if name == "currentcolor" {
        return Some(ColorValue::Current);
    }
    if name == "transparent" {
        return Some(ColorValue::Absolute(Color::rgb(0.0, 0.0, 0.0, 0.0)));
    }
    if let Some([r, g, b]) = names::named(name) {
        return Some(ColorValue::Absolute(Color::rgb(f64::from(r), f64::from(g), f64::from(b), 1.0)));
    }
    names::system(name, false).map(|_| ColorValue::System(Name::from(name)))
}

/// Whether a word in lower case is a named colour; those of the system are none (CSS Color 4, §6.1).
pub(crate) fn is_name(word: &str) -> bool {
    names::named(word).is_some()
}

/// The names that colours have.
pub(crate) fn all_names() -> impl Iterator<Item = &'static str> {
    names::all()
}

/// The functions that make colours, each as it is written.
const FUNCTIONS: &[(&str, &str)] = &[
    ("rgb", "rgb(255 0 0 / 50%)"),
    ("rgba", "rgba(255, 0, 0, 0.5)"),
    ("hsl", "hsl(120 100% 25%)"),
    ("hsla", "hsla(120, 100%, 25%, 0.5)"),
    ("hwb", "hwb(120 0% 50%)"),
    ("lab", "lab(50% 40 20)"),
    ("lch", "lch(50% 40 120)"),
    ("oklab", "oklab(60% 0.1 0.1)"),
    ("oklch", "oklch(60% 0.2 120)"),
    ("color", "color(display-p3 1 0 0)"),
    ("color-mix", "color-mix(in oklab, red, blue)"),
    ("light-dark", "light-dark(black, white)"),
    ("contrast-color", "contrast-color(navy)"),
    ("alpha", "alpha(from red / 50%)"),
];

/// The names of the functions that make colours.
pub(crate) fn functions() -> impl Iterator<Item = &'static str> {
    FUNCTIONS.iter().map(|(name, _)| *name)
}

/// How a function that makes colours is written; nothing for other functions.
pub(crate) fn example(function: &str) -> Option<&'static str> {
    FUNCTIONS.iter().find(|(name, _)| *name == function).map(|(_, example)| *example)
}

/// The name of an opaque sRGB colour, where it has one.
pub(crate) fn name_of(rgb: [u8; 3]) -> Option<&'static str> {
    names::name_of(rgb)
}

/// A colour written as a function.
fn function(name: &str, inside: Slice<'_>, depth: u32) -> Option<ColorValue> {
    match name {
        "light-dark" => {
            let parts = inside.commas();
            let [light, dark] = parts.as_slice() else {
                return None;
            };
            return Some(ColorValue::LightDark(
                Box::new(parse_at(*light, depth + 1)?),
                Box::new(parse_at(*dark, depth + 1)?),
            ));
        }
        "color-mix" => return mix(inside, depth),
        "alpha" => return WithAlpha::parse(inside, depth).map(|a| ColorValue::Alpha(Box::new(a))),
        "contrast-color" => return Some(ColorValue::Contrast(Box::new(parse_at(inside, depth + 1)?))),
        _ => {}
    }
    let mut rest = inside;
    let mut origin = None;
    if rest.is_ident("from") {
        rest.next();
        rest.skip_space();
        let begin = rest;
        rest.next();
        origin = Some(parse_at(Slice { to: rest.from, ..begin }, depth + 1)?);
        rest.skip_space();
    }
    let space = match name {
        "rgb" | "rgba" => Space::Rgb,
        "hsl" | "hsla" => Space::Hsl,
        "hwb" => Space::Hwb,
        "lab" => Space::Lab,
        "lch" => Space::Lch,
        "oklab" => Space::Oklab,
        "oklch" => Space::Oklch,
        "color" => {
            let space = Space::named(&rest.ident()?).filter(|s| s.is_predefined())?;
            rest.next();
            space
        }
        _ => return None,
    };
    let commas = rest.commas();
    if commas.len() > 1 {
        let takes_commas = matches!(name, "rgb" | "rgba" | "hsl" | "hsla") && origin.is_none();
        return if takes_commas { legacy(space, &commas).map(ColorValue::Absolute) } else { None };
    }
    let parts = components(rest, space, origin.is_some())?;
    let function = Function { origin, space, parts };
    if function.origin.is_some() || function.needs_element() {
        return Some(ColorValue::Function(Box::new(function)));
    }
    function.color(None, &Context::default()).map(ColorValue::Absolute)
}

/// An sRGB, HSL or HWB colour as one that is serialised as `rgb()`. HSL keeps its own components, since other colours
/// may be made from it that reach beyond sRGB; `rgb()` itself ends at its gamut.
fn to_legacy(color: Color) -> Color {
    let [x, y, z] = color.c;
    let c = match color.space {
        Space::Rgb => color.c.map(|v| v.clamp(0.0, 1.0)),
        Space::Hsl | Space::Hwb => [x, y.max(0.0), z.max(0.0)],
        _ => color.c,
    };
    Color { c, legacy: true, ..color }
}

/// The notation with commas: three components and opacity, all numbers or all percentages.
fn legacy(space: Space, parts: &[Slice<'_>]) -> Option<Color> {
    if !(3..=4).contains(&parts.len()) {
        return None;
    }
    let mut c = [0.0; 3];
    let mut percentages = 0;
    for (i, part) in parts.iter().take(3).enumerate() {
        let part = part.trim();
        let (n, percent) = number(part, false)?;
        if space == Space::Rgb {
            percentages += usize::from(percent);
            c[i] = if percent { n / 100.0 } else { n / 255.0 };
        } else if (i == 0) == percent {
            return None;
        } else {
            c[i] = n;
        }
        if i > 0 && matches!(part.kind(), Some(Kind::Dimension(..))) {
            return None;
        }
        if space == Space::Rgb && matches!(part.kind(), Some(Kind::Dimension(..))) {
            return None;
        }
    }
    if space == Space::Rgb && percentages % 3 != 0 {
        return None;
    }
    if space == Space::Hsl {
        c = [c[0].rem_euclid(360.0), c[1].clamp(0.0, 100.0), c[2].clamp(0.0, 100.0)];
    }
    let alpha = match parts.get(3) {
        None => 1.0,
        Some(part) => {
            let (n, percent) = number(part.trim(), false)?;
            if percent { n / 100.0 } else { n }
        }
    };
    // The opacity of `rgba()` has always been held in whole steps.
    let alpha = if space == Space::Rgb { whole_steps(alpha) } else { alpha };
    Some(to_legacy(Color { space, c, alpha: alpha.clamp(0.0, 1.0), none: 0, legacy: true }))
}

/// The one number, percentage or angle of a run, and whether it is a percentage. Angles are in degrees.
fn number(slice: Slice<'_>, channels: bool) -> Option<(f64, bool)> {
    let math = expression(slice, channels)?;
    match math.simplify(&Context::default(), false) {
        Math::Number(n) => Some((finite(n), false)),
        Math::Percentage(n) => Some((finite(n), true)),
        Math::Dimension(n, Unit::Deg) => Some((finite(n), false)),
        _ => None,
    }
}

/// Infinities and NaN as something to calculate with (CSS Color 4, §4.3).
fn finite(n: f64) -> f64 {
    if n.is_nan() { 0.0 } else { n.clamp(f64::from(f32::MIN), f64::from(f32::MAX)) }
}

/// The one expression of a run.
fn expression(slice: Slice<'_>, channels: bool) -> Option<Math> {
    let token = slice.peek()?;
    let mut rest = slice;
    rest.next();
    if !rest.trim().is_empty() {
        return None;
    }
    match token.kind {
        Kind::Number(n, _) => Some(Math::Number(n)),
        Kind::Percentage(n) => Some(Math::Percentage(n)),
        Kind::Dimension(n, _) => Unit::named(&slice.name(token)).map(|u| Math::Dimension(n, u)),
        Kind::Function(_) => math::function(slice, 0, channels),
        Kind::Ident if channels => Some(Math::Channel(Name::from(slice.name(token).to_ascii_lowercase()))),
        _ => None,
    }
}

/// Three components and opacity in the notation with spaces.
fn components(slice: Slice<'_>, space: Space, channels: bool) -> Option<[Component; 4]> {
    let (colors, alpha) = slice.split_at(|t| t.kind == Kind::Delim('/'));
    let mut rest = colors.trim();
    let mut parts: Vec<Component> = Vec::with_capacity(4);
    while !rest.is_empty() {
        let begin = rest;
        rest.next();
        parts.push(component(Slice { to: rest.from, ..begin }, parts.len(), space, channels)?);
        rest.skip_space();
    }
    if parts.len() != 3 {
        return None;
    }
    parts.push(if alpha.is_empty() {
        Component::Math(if channels { Math::Channel(Name::from("alpha")) } else { Math::Number(1.0) })
    } else {
        component(Slice { from: alpha.from + 1, ..alpha }.trim(), 3, space, channels)?
    });
    parts.try_into().ok()
}

/// One component: percentages become numbers of the channel's scale.
fn component(slice: Slice<'_>, index: usize, space: Space, channels: bool) -> Option<Component> {
    if slice.is_ident("none") && slice.from + 1 == slice.to {
        return Some(Component::None);
    }
    let math = expression(slice, channels)?;
    if math.needs_element() {
        return Some(Component::Math(math));
    }
    let is_hue = index < 3 && space.hue() == Some(index);
    Some(Component::Math(match math.simplify(&Context::default(), false) {
        Math::Percentage(n) if !is_hue => Math::Number(n / 100.0 * space.full(index)),
        Math::Dimension(n, Unit::Deg) if is_hue => Math::Number(n),
        Math::Percentage(_) | Math::Dimension(..) => return None,
        other => other,
    }))
}

impl Function {
    /// Whether its numbers depend on the element.
    fn needs_element(&self) -> bool {
        self.parts.iter().any(|p| matches!(p, Component::Math(math) if math.needs_element()))
    }

    /// The same with all that depends on the element worked out.
    fn settled(&self, origin: Option<ColorValue>, context: &Context) -> Self {
        let part = |p: &Component| match p {
            Component::Math(math) => Component::Math(math.simplify(context, false)),
            Component::None => Component::None,
        };
        Self { origin, space: self.space, parts: self.parts.each_ref().map(part) }
    }

    /// The colour, made from its origin if it has one.
    fn color(&self, origin: Option<Color>, context: &Context) -> Option<Color> {
        // What the origin lacks counts as 0 (CSS Color 5, §4.1).
        let source = origin
            .map(|o| Color { none: 0, c: o.cleared(), alpha: o.opacity(), ..o }.convert(self.space))
            .map(|s| Color { none: 0, ..s });
        let mut none = 0;
        let mut n = [0.0; 4];
        for (i, part) in self.parts.iter().enumerate() {
            match part {
                Component::None => none |= 1 << i,
                Component::Math(math) => match self.replaced(&math.in_the_middle(), source)?.simplify(context, false) {
                    Math::Number(v) | Math::Dimension(v, Unit::Deg) => n[i] = self.held(i, v),
                    Math::Percentage(v) => n[i] = self.held(i, v) / 100.0 * self.space.full(i),
                    _ => return None,
                },
            }
        }
        let scale = self.space.scale();
        let mut c = [n[0] / scale, n[1] / scale, n[2] / scale];
        match self.space {
            Space::Lab => c[0] = c[0].clamp(0.0, 100.0),
            Space::Oklab => c[0] = c[0].clamp(0.0, 1.0),
            Space::Lch => c = [c[0].clamp(0.0, 100.0), c[1].max(0.0), c[2].rem_euclid(360.0)],
            Space::Oklch => c = [c[0].clamp(0.0, 1.0), c[1].max(0.0), c[2].rem_euclid(360.0)],
            Space::Hsl | Space::Hwb => c[0] = c[0].rem_euclid(360.0),
            _ => {}
        }
        let color = Color { space: self.space, c, alpha: n[3].clamp(0.0, 1.0), none, legacy: false };
        Some(if self.origin.is_none() && self.space.is_legacy() { to_legacy(color) } else { color })
    }

    /// A number of a component as something to calculate with (CSS Color 4, §4.3): infinite where a notation is written with
    /// what it was made of, else the largest number.
    fn held(&self, index: usize, n: f64) -> f64 {
        if self.space.is_legacy() || index == 3 || !n.is_infinite() {
            finite(n)
        } else if self.space.hue() == Some(index) {
            f64::MAX.copysign(n)
        } else {
            n
        }
    }

    /// The function as text.
    fn text(&self) -> String {
        let from = self.origin.as_ref().map_or_else(String::new, |o| format!("from {} ", o.text()));
        let [a, b, c, alpha] = self.parts.each_ref().map(Component::text);
        let slash = if alpha == "1" || alpha == "alpha" { String::new() } else { format!(" / {alpha}") };
        if self.space.is_predefined() {
            format!("color({from}{} {a} {b} {c}{slash})", self.space.name())
        } else {
            format!("{}({from}{a} {b} {c}{slash})", self.space.name())
        }
    }

    /// The index of a channel by name.
    fn channel_index(&self, name: &str) -> Option<usize> {
        if name == "alpha" {
            return Some(3);
        }
        self.space.channels().iter().position(|c| *c == name)
    }

    /// The number of a channel.
    fn channel(&self, name: &str, source: Color) -> Option<f64> {
        let index = self.channel_index(name)?;
        if index == 3 {
            return Some(source.alpha);
        }
        Some(source.c[index] * self.space.scale())
    }

    /// An expression with numbers for its channels.
    fn replaced(&self, math: &Math, source: Option<Color>) -> Option<Math> {
        match math {
            Math::Channel(name) => Some(Math::Number(self.channel(name, source?)?)),
            other => other.on_operands(|m| self.replaced(m, source)),
        }
    }

    /// Whether all its channels exist: with any colour as origin.
    fn is_sound(&self) -> bool {
        self.color(Some(Color::rgb(0.0, 0.0, 0.0, 1.0)), &Context::default()).is_some()
    }
}

/// `color-mix(in space, a 10%, b 20%)`
fn mix(inside: Slice<'_>, depth: u32) -> Option<ColorValue> {
    let mut parts = inside.commas();
    let mut method = parts.first()?.trim();
    let (mut space, mut hue) = (Space::Oklab, Hue::Shorter);
    if method.is_ident("in") {
        parts.remove(0);
        method.next();
        method.skip_space();
        space = Space::named(&method.ident()?)?;
        method.next();
        method.skip_space();
        if !method.is_empty() {
            space.hue()?;
            hue = match &*method.ident()? {
                "shorter" => Hue::Shorter,
                "longer" => Hue::Longer,
                "increasing" => Hue::Increasing,
                "decreasing" => Hue::Decreasing,
                _ => return None,
            };
            method.next();
            method.skip_space();
            if !method.is_ident("hue") || method.from + 1 != method.to {
                return None;
            }
        }
    }
    let mut read = Vec::new();
    for part in &parts {
        let mut rest = part.trim();
        let mut color = None;
        let mut share = None;
        while !rest.is_empty() {
            let begin = rest;
            rest.next();
            let one = Slice { to: rest.from, ..begin };
            rest.skip_space();
            match parse_at(one, depth + 1) {
                Some(c) if color.is_none() => color = Some(c),
                _ => {
                    let (n, percent) = number(one, false)?;
                    let literal = matches!(one.kind(), Some(Kind::Percentage(_)));
                    if !percent || share.is_some() || (literal && !(0.0..=100.0).contains(&n)) {
                        return None;
                    }
                    share = expression(one, false);
                }
            }
        }
        read.push((color?, share));
    }
    let parts: [(ColorValue, Option<Math>); 2] = read.try_into().ok()?;
    Some(ColorValue::Mix(Box::new(Mix { space, hue, parts, known: Known::default() })))
}

impl Mix {
    /// The colour that comes of two.
    fn color(&self, a: Color, b: Color) -> Color {
        let share = |math: &Option<Math>| {
            math.as_ref().map(|m| match m.simplify(&Context::default(), false) {
                Math::Percentage(n) => finite(n).clamp(0.0, 100.0),
                _ => 50.0,
            })
        };
        let (p, q) = match (share(&self.parts[0].1), share(&self.parts[1].1)) {
            (None, None) => (50.0, 50.0),
            (Some(p), None) => (p, 100.0 - p),
            (None, Some(q)) => (100.0 - q, q),
            (Some(p), Some(q)) => (p, q),
        };
        let sum: f64 = p + q;
        let opacity = if sum < 100.0 { sum / 100.0 } else { 1.0 };
        // Nothing of both is half of each, and nothing to see (CSS Color 5, §3.1).
        let t = if sum == 0.0 { 0.5 } else { q / sum };
        let (mut a, mut b) = (a.convert(self.space), b.convert(self.space));
        // A component that one colour lacks is the other's.
        let both = a.none & b.none;
        for i in 0..3 {
            let bit = 1 << i;
            if a.none & bit != 0 {
                a.c[i] = b.c[i];
            } else if b.none & bit != 0 {
                b.c[i] = a.c[i];
            }
        }
        let (alpha_a, alpha_b) = match (a.none & 8 != 0, b.none & 8 != 0) {
            (true, true) => (1.0, 1.0),
            (true, _) => (b.alpha, b.alpha),
            (_, true) => (a.alpha, a.alpha),
            _ => (a.alpha, b.alpha),
        };
        let hue = self.space.hue();
        if let Some(h) = hue {
            (a.c[h], b.c[h]) = self.hues(a.c[h], b.c[h]);
        }
        let alpha = alpha_a + (alpha_b - alpha_a) * t;
        let brightest = match self.space {
            Space::Lab | Space::Lch => Some(100.0),
            Space::Oklab | Space::Oklch => Some(1.0),
            _ => None,
        };
        let mut c = [0.0; 3];
        for (i, v) in c.iter_mut().enumerate() {
            if hue == Some(i) {
                *v = (a.c[i] + (b.c[i] - a.c[i]) * t).rem_euclid(360.0);
                continue;
            }
            // Premultiplied, also where nothing is to be seen of it (CSS Color 4, §12.3). Lightness ends there.
            let sum = a.c[i] * alpha_a * (1.0 - t) + b.c[i] * alpha_b * t;
            let sum = brightest.filter(|_| i == 0).map_or(sum, |most| sum.clamp(0.0, most));
            *v = if alpha == 0.0 { sum } else { sum / alpha };
        }
        Color { space: self.space, c, alpha: alpha * opacity, none: both, legacy: false }
    }

    /// Two hues moved so that going straight from one to the other is the way asked for.
    fn hues(&self, mut a: f64, mut b: f64) -> (f64, f64) {
        let d = b - a;
        match self.hue {
            Hue::Shorter if d > 180.0 => a += 360.0,
            Hue::Shorter if d < -180.0 => b += 360.0,
            Hue::Longer if d > 0.0 && d < 180.0 => a += 360.0,
            Hue::Longer if d > -180.0 && d <= 0.0 => b += 360.0,
            Hue::Increasing if d < 0.0 => b += 360.0,
            Hue::Decreasing if d > 0.0 => a += 360.0,
            _ => {}
        }
        (a, b)
    }
}

impl ColorValue {
    /// The colour with all known that the element and its colour scheme decide; what stays open depends on
    /// `currentcolor` only.
    pub(crate) fn computed(&self, dark: bool, context: &Context) -> Self {
        let one = |c: &Self| c.computed(dark, context);
        let open = match self {
            Self::Absolute(_) | Self::Current => return self.clone(),
            Self::System(name) => {
                let [r, g, b, a] = names::system(name, dark).unwrap_or([0, 0, 0, 255]).map(f64::from);
                return Self::Absolute(Color::rgb(r, g, b, a / 255.0));
            }
            Self::LightDark(light, dark_one) => return one(if dark { dark_one } else { light }),
            Self::Mix(mix) => {
                let part = |p: &(Self, Option<Math>)| (one(&p.0), p.1.as_ref().map(|m| m.simplify(context, false)));
                let (space, hue, parts) = (mix.space, mix.hue, mix.parts.each_ref().map(part));
                Self::Mix(Box::new(Mix { space, hue, parts, known: Known::default() }))
            }
            Self::Contrast(of) => Self::Contrast(Box::new(one(of))),
            Self::Alpha(of) => {
                let alpha = match &of.alpha {
                    Component::Math(math) => Component::Math(math.simplify(context, false)),
                    Component::None => Component::None,
                };
                Self::Alpha(Box::new(WithAlpha { origin: one(&of.origin), alpha }))
            }
            Self::Function(function) => {
                Self::Function(Box::new(function.settled(function.origin.as_ref().map(one), context)))
            }
        };
        open.resolve(None).map_or(open, Self::Absolute)
    }

    /// The same, the very one for all elements where it is the same on all.
    pub(crate) fn shared(&self, dark: bool, context: &Context) -> Arc<Self> {
        let computed = || Arc::new(self.computed(dark, context));
        match self {
            Self::LightDark(light, dark_one) => if dark { dark_one } else { light }.shared(dark, context),
            Self::Mix(mix) if self.is_closed() => mix.known.0[usize::from(dark)].get_or_init(computed).clone(),
            _ => computed(),
        }
    }

    /// Whether it can be seen that nothing but the colour scheme decides about it.
    fn is_closed(&self) -> bool {
        let (percentage, number) =
            (|m: &Math| matches!(m, Math::Percentage(_)), |m: &Math| matches!(m, Math::Number(_)));
        let is_plain = |math: &Math| match math {
            Math::Product(factors) => factors.iter().all(|m| percentage(m) || number(m)),
            other => percentage(other),
        };
        match self {
            Self::Absolute(_) | Self::System(_) => true,
            Self::LightDark(light, dark) => light.is_closed() && dark.is_closed(),
            Self::Mix(mix) => mix.parts.iter().all(|(color, share)| color.is_closed() && share.iter().all(is_plain)),
            _ => false,
        }
    }

    /// Whether it is its own computed value.
    pub(crate) fn is_settled(&self) -> bool {
        matches!(self, Self::Absolute(_) | Self::Current)
    }

    /// Whether it is written in a notation that every browser has always had.
    pub(crate) fn is_legacy(&self) -> bool {
        match self {
            Self::Absolute(color) => color.legacy,
            Self::Current | Self::System(_) => true,
            _ => false,
        }
    }

    /// The colour, given what `currentcolor` is; nothing where that is needed and not given.
    pub(crate) fn resolve(&self, current: Option<Color>) -> Option<Color> {
        match self {
            Self::Absolute(color) => Some(*color),
            Self::Current => current,
            Self::System(name) => names::system(name, false).map(|c| {
                let [r, g, b, a] = c.map(f64::from);
                Color::rgb(r, g, b, a / 255.0)
            }),
            Self::LightDark(light, _) => light.resolve(current),
            Self::Mix(mix) => Some(mix.color(mix.parts[0].0.resolve(current)?, mix.parts[1].0.resolve(current)?)),
            Self::Contrast(of) => {
                // The larger contrast by WCAG 2.1's relative luminance of what a screen shows.
                let shown = of.resolve(current)?.to_rgb().map(|v| f64::from(v) / 255.0);
                let [r, g, b] = Space::SrgbLinear.components_of(Space::Srgb, shown);
                let luminance = 0.2126 * r + 0.7152 * g + 0.0722 * b;
                let white = 1.05 / (luminance + 0.05) > (luminance + 0.05) / 0.05;
                let v = if white { 255.0 } else { 0.0 };
                Some(Color::rgb(v, v, v, 1.0))
            }
            Self::Alpha(of) => of.color(of.origin.resolve(current)?, of.origin.resolve(None).is_none()),
            Self::Function(function) => {
                let Some(from) = &function.origin else {
                    return function.color(None, &Context::default());
                };
                let mut color = function.color(Some(from.resolve(current)?), &Context::default())?;
                // As browsers ship it, `rgb()` does not wait for `currentcolor` with anything missing.
                if function.space == Space::Rgb && from.resolve(None).is_none() {
                    color.none &= 8;
                }
                Some(color)
            }
        }
    }

    /// The colour as text; with `currentcolor` in it, the notation that it waits in.
    pub(crate) fn text(&self) -> String {
        match self {
            Self::Absolute(color) => color.text(),
            Self::Current => "currentcolor".to_owned(),
            Self::System(name) => serialize_identifier(name),
            Self::LightDark(light, dark) => format!("light-dark({}, {})", light.text(), dark.text()),
            Self::Mix(mix) => {
                let part = |(color, share): &(Self, Option<Math>)| match share {
                    Some(share) => format!("{} {}", color.text(), share.text()),
                    None => color.text(),
                };
                let [a, b] = mix.parts.each_ref().map(part);
                format!("color-mix(in {}{}, {a}, {b})", mix.space.name(), mix.hue.text())
            }
            Self::Contrast(of) => format!("contrast-color({})", of.text()),
            Self::Alpha(of) => format!("alpha(from {} / {})", of.origin.text(), of.alpha.text()),
            Self::Function(function) => function.text(),
        }
    }
}

/// Whether a colour can be worked out for every `currentcolor`.
pub(crate) fn is_sound(color: &ColorValue) -> bool {
    match color {
        ColorValue::Function(function) => function.is_sound() && function.origin.as_ref().is_none_or(is_sound),
        ColorValue::Mix(mix) => mix.parts.iter().all(|p| is_sound(&p.0)),
        ColorValue::LightDark(a, b) => is_sound(a) && is_sound(b),
        ColorValue::Contrast(of) => is_sound(of),
        ColorValue::Alpha(of) => is_sound(&of.origin),
        _ => true,
    }
}
