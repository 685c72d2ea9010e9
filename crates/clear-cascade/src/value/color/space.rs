//! Colour spaces and the ways between them (CSS Color 4, §10).
//!
//! All conversions go through XYZ with D50 white, where ICC profiles define the RGB spaces, and in single precision: to the
//! last digit, and to the hue of what is nearly grey, this is how browsers do it. The standard's sample code (§18) goes
//! through D65.
#![allow(clippy::excessive_precision)] // Matrices are given to the last digit.

/// A colour space.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs, clippy::missing_docs_in_private_items)]
pub(crate) enum Space {
    /// sRGB as `rgb()` writes it.
    Rgb,
    /// sRGB as `color()` writes it.
    Srgb,
    SrgbLinear,
    DisplayP3,
    DisplayP3Linear,
    A98,
    ProPhoto,
    Rec2020,
    XyzD50,
    XyzD65,
    Lab,
    Lch,
    Oklab,
    Oklch,
    Hsl,
    Hwb,
}

/// Three components.
type Triple = [f32; 3];
/// A matrix.
type Matrix = [Triple; 3];

/// Spaces by name.
const SPACES: &[(&str, Space)] = &[
    ("srgb", Space::Srgb),
    ("srgb-linear", Space::SrgbLinear),
    ("display-p3", Space::DisplayP3),
    ("display-p3-linear", Space::DisplayP3Linear),
    ("a98-rgb", Space::A98),
    ("prophoto-rgb", Space::ProPhoto),
    ("rec2020", Space::Rec2020),
    ("xyz-d65", Space::XyzD65),
    ("xyz", Space::XyzD65),
    ("xyz-d50", Space::XyzD50),
    ("lab", Space::Lab),
    ("lch", Space::Lch),
    ("oklab", Space::Oklab),
    ("oklch", Space::Oklch),
    ("hsl", Space::Hsl),
    ("hwb", Space::Hwb),
];

/// What a component stands for, where spaces have it in common (CSS Color 4, §12.2 "analogous components").
#[derive(Clone, Copy, PartialEq)]
pub(super) enum Role {
    /// Red, or X.
    Reds,
    /// Green, or Y.
    Greens,
    /// Blue, or Z.
    Blues,
    /// Lightness.
    Lightness,
    /// Chroma or saturation.
    Colorfulness,
    /// Hue.
    Hue,
    /// The `a` of Lab.
    OpponentA,
    /// The `b` of Lab.
    OpponentB,
}

impl Space {
    /// The space with this name, in lower case.
    pub(super) fn named(name: &str) -> Option<Self> {
        SPACES.iter().find(|(n, _)| *n == name).map(|(_, s)| *s)
    }

    /// Its name.
    pub(super) fn name(self) -> &'static str {
        SPACES.iter().find(|(_, s)| *s == self).map_or("rgb", |(n, _)| n)
    }

    /// Whether `color()` takes it.
    pub(super) fn is_predefined(self) -> bool {
        !self.is_legacy() && !matches!(self, Self::Lab | Self::Lch | Self::Oklab | Self::Oklch)
    }

    /// Whether its notation is one that is serialised as `rgb()` (CSS Color 4, §15.2).
    pub(super) fn is_legacy(self) -> bool {
        matches!(self, Self::Rgb | Self::Hsl | Self::Hwb)
    }

    /// The components that together are its colourfulness, by bit.
    pub(super) fn chromatic(self) -> u8 {
        match self {
            Self::Lab | Self::Lch | Self::Oklab | Self::Oklch => 0b110,
            Self::Hsl => 0b011,
            _ => 0,
        }
    }

    /// The components that are not its hue, if it has one, by bit.
    pub(super) fn without_hue(self) -> u8 {
        self.hue().map_or(0, |hue| 7 & !(1 << hue))
    }

    /// What a written component is divided by.
    pub(super) fn scale(self) -> f64 {
        if self == Self::Rgb { 255.0 } else { 1.0 }
    }

    /// The index of its hue.
    pub(super) fn hue(self) -> Option<usize> {
        match self {
            Self::Hsl | Self::Hwb => Some(0),
            Self::Lch | Self::Oklch => Some(2),
            _ => None,
        }
    }

    /// The names of its channels in relative colours.
    pub(super) fn channels(self) -> [&'static str; 3] {
        match self {
            Self::XyzD50 | Self::XyzD65 => ["x", "y", "z"],
            Self::Lab | Self::Oklab => ["l", "a", "b"],
            Self::Lch | Self::Oklch => ["l", "c", "h"],
            Self::Hsl => ["h", "s", "l"],
            Self::Hwb => ["h", "w", "b"],
            _ => ["r", "g", "b"],
        }
    }

    /// What 100% of a component is, or of opacity, the fourth.
    pub(super) fn full(self, index: usize) -> f64 {
        match (self, index) {
            (_, 3) => 1.0,
            (Self::Rgb, _) => 255.0,
            (Self::Lab, 0) | (Self::Lch, 0) | (Self::Hsl | Self::Hwb, _) => 100.0,
            (Self::Lab, _) => 125.0,
            (Self::Lch, 1) => 150.0,
            (Self::Oklab, 1 | 2) | (Self::Oklch, 1) => 0.4,
            _ => 1.0,
        }
    }

    /// What a component stands for.
    pub(super) fn role(self, index: usize) -> Option<Role> {
        Some(match (self, index) {
            (Self::Lab | Self::Oklab | Self::Lch | Self::Oklch, 0) | (Self::Hsl, 2) => Role::Lightness,
            (Self::Lab | Self::Oklab, 1) => Role::OpponentA,
            (Self::Lab | Self::Oklab, 2) => Role::OpponentB,
            (Self::Lch | Self::Oklch | Self::Hsl, 1) => Role::Colorfulness,
            (Self::Lch | Self::Oklch, _) | (Self::Hsl | Self::Hwb, 0) => Role::Hue,
            (Self::Hwb | Self::Hsl, _) => return None,
            (_, 0) => Role::Reds,
            (_, 1) => Role::Greens,
            _ => Role::Blues,
        })
    }

    /// Whether a colour has no hue worth the name. Browsers draw the line elsewhere than with the epsilon that the standard
    /// suggests (CSS Color 4, §4.4).
    pub(super) fn is_achromatic(self, c: [f64; 3]) -> bool {
        match self {
            Self::Hsl => c[1] <= 1e-6,
            Self::Hwb => c[1] + c[2] >= 100.0 - 1e-6,
            Self::Lch | Self::Oklch => c[1] <= 0.02,
            _ => false,
        }
    }

    /// The components in sRGB, 0 to 1.
    pub(super) fn to_srgb(self, c: [f64; 3]) -> [f64; 3] {
        Self::Srgb.components_of(self, c)
    }

    /// Components of another space in this one.
    pub(super) fn components_of(self, other: Self, c: [f64; 3]) -> [f64; 3] {
        use Space::{Hsl, Hwb, Lab, Lch, Oklab, Oklch, Rgb, Srgb, SrgbLinear};
        let single = c.map(|v| v as f32);
        match (other, self) {
            _ if other == self => c,
            // These are sRGB seen otherwise: going through XYZ would only add noise.
            (Rgb | Srgb | Hsl | Hwb | SrgbLinear, Rgb | Srgb | Hsl | Hwb) => {
                let rgb = match other {
                    Hsl => hsl_to_rgb(c),
                    Hwb => hwb_to_rgb(c),
                    SrgbLinear => single.map(|v| SRGB_CURVE.of_light(v, rough_power)).map(f64::from),
                    _ => c,
                };
                match self {
                    Hsl => rgb_to_hsl(rgb),
                    Hwb => rgb_to_hwb(rgb),
                    _ => rgb,
                }
            }
            (Lch, Lab) | (Oklch, Oklab) => from_polar(single).map(f64::from),
            (Lab, Lch) => to_polar(single).map(f64::from),
            // Its hue stays between -180 and 180 degrees, which shows once it is calculated with.
            (Oklab, Oklch) => {
                let [l, c, h] = to_polar(single);
                [l, c, if h > 180.0 { h - 360.0 } else { h }].map(f64::from)
            }
            (Hsl, _) => self.of_xyz(Srgb.to_xyz(hsl_to_rgb(c).map(|v| v as f32))).map(f64::from),
            (Hwb, _) => self.of_xyz(Srgb.to_xyz(hwb_to_rgb(c).map(|v| v as f32))).map(f64::from),
            (_, Hsl) => rgb_to_hsl(Srgb.of_xyz(other.to_xyz(single)).map(f64::from)),
            (_, Hwb) => rgb_to_hwb(Srgb.of_xyz(other.to_xyz(single)).map(f64::from)),
            _ => self.of_xyz(other.to_xyz(single)).map(f64::from),
        }
    }

    /// How an RGB space is defined: its curve, and the matrix from its light to XYZ with D50 white.
    fn profile(self) -> Option<(&'static Curve, &'static Matrix)> {
        Some(match self {
            Self::Rgb | Self::Srgb => (&SRGB_CURVE, &SRGB_TO_XYZ),
            Self::SrgbLinear => (&LINEAR, &SRGB_TO_XYZ),
            Self::DisplayP3 => (&SRGB_CURVE, &P3_TO_XYZ),
            Self::DisplayP3Linear => (&LINEAR, &P3_TO_XYZ),
            Self::A98 => (&A98_CURVE, &A98_TO_XYZ),
            Self::ProPhoto => (&PROPHOTO_CURVE, &PROPHOTO_TO_XYZ),
            Self::Rec2020 => (&REC2020_CURVE, &REC2020_TO_XYZ),
            Self::XyzD65 => (&LINEAR, &D65_TO_D50),
            _ => return None,
        })
    }

    /// The components, of a space other than HSL and HWB, as XYZ with D50 white.
    fn to_xyz(self, c: Triple) -> Triple {
        match (self, self.profile()) {
            (_, Some((curve, matrix))) => times(matrix, c.map(|v| curve.to_light(v))),
            (Self::Lab, _) => lab_to_xyz(c),
            (Self::Lch, _) => lab_to_xyz(from_polar(c)),
            (Self::Oklab, _) => times(&D65_TO_D50, oklab_to_xyz(c)),
            (Self::Oklch, _) => times(&D65_TO_D50, oklab_to_xyz(from_polar(c))),
            _ => c,
        }
    }

    /// Components, of a space other than HSL and HWB, from XYZ with D50 white.
    fn of_xyz(self, xyz: Triple) -> Triple {
        let oklab = || xyz_to_oklab(times(&inverse(&D65_TO_D50), xyz));
        match (self, self.profile()) {
            (_, Some((curve, matrix))) => times(&inverse(matrix), xyz).map(|v| curve.of_light(v, power)),
            (Self::Lab, _) => xyz_to_lab(xyz),
            (Self::Lch, _) => to_polar(xyz_to_lab(xyz)),
            (Self::Oklab, _) => oklab(),
            (Self::Oklch, _) => to_polar(oklab()),
            _ => xyz,
        }
    }
}

/// A matrix times a vector.
fn times(m: &Matrix, [x, y, z]: Triple) -> Triple {
    m.map(|row| row[0] * x + row[1] * y + row[2] * z)
}

/// The inverse of a matrix that has one.
fn inverse(m: &Matrix) -> Matrix {
    let m = m.map(|row| row.map(f64::from));
    let cofactor = |r: usize, c: usize| {
        let (r1, r2, c1, c2) = ((r + 1) % 3, (r + 2) % 3, (c + 1) % 3, (c + 2) % 3);
        m[r1][c1] * m[r2][c2] - m[r1][c2] * m[r2][c1]
    };
    let determinant: f64 = (0..3).map(|c| m[0][c] * cofactor(0, c)).sum();
    std::array::from_fn(|r| std::array::from_fn(|c| (cofactor(c, r) / determinant) as f32))
}

/// A power, rounded once.
fn power(base: f32, exponent: f32) -> f32 {
    f64::from(base).powf(f64::from(exponent)) as f32
}

/// A power by way of polynomials for the logarithm and its inverse, right to four digits. Browsers take this short way from
/// linear light straight to sRGB.
fn rough_power(base: f32, exponent: f32) -> f32 {
    if base == 0.0 || base == 1.0 {
        return base;
    }
    let one = (1u32 << 23) as f32;
    let fraction = f32::from_bits(base.to_bits() & 0x007f_ffff | 0x3f00_0000);
    let logarithm = base.to_bits() as f32 * (1.0 / one)
        - 124.225_514_99
        - 1.498_030_302 * fraction
        - 1.725_879_99 / (0.352_088_706_8 + fraction);
    let power = logarithm * exponent;
    let rest = power - power.floor();
    let bits = (power + 121.274_057_5 - 1.490_129_07 * rest + 27.728_023_3 / (4.842_525_68 - rest)) * one;
    f32::from_bits(bits.round() as u32)
}

/// A transfer function between a space's components and light: straight to a limit, then a power (ICC.1, §10.18,
/// parametric curve of type 3). Negative values mirror the positive ones.
struct Curve {
    /// The exponent.
    gamma: f32,
    /// What a component is multiplied with before the power is taken,
    scale: f32,
    /// and what is added to it.
    offset: f32,
    /// The slope of the straight part.
    slope: f32,
    /// The component where the straight part ends.
    end: f32,
}

impl Curve {
    /// A power without a straight part.
    const fn power(gamma: f32) -> Self {
        Self { gamma, scale: 1.0, offset: 0.0, slope: 0.0, end: 0.0 }
    }

    /// The light of a component.
    fn to_light(&self, v: f32) -> f32 {
        let a = v.abs();
        let light = if self.gamma == 1.0 {
            a
        } else if a >= self.end {
            power(self.scale * a + self.offset, self.gamma)
        } else {
            self.slope * a
        };
        light.copysign(v)
    }

    /// The component for a light, by this way of taking powers. The inverse is made so that 1 comes back as 1.
    fn of_light(&self, light: f32, power: fn(f32, f32) -> f32) -> f32 {
        let a = light.abs();
        let component = if self.gamma == 1.0 {
            a
        } else if a >= self.slope * self.end {
            let (scale, gamma) = (power(self.scale, -self.gamma), 1.0 / self.gamma);
            power(scale * a, gamma) + (1.0 - power(scale, gamma))
        } else {
            1.0 / self.slope * a
        };
        component.copysign(light)
    }
}

/// Light as it is.
const LINEAR: Curve = Curve::power(1.0);
/// The curve of sRGB and Display P3.
const SRGB_CURVE: Curve =
    Curve { gamma: 2.4, scale: 0.947_867_299, offset: 0.052_132_701_4, slope: 0.077_399_380_8, end: 0.040_45 };
/// The curve of A98, whose exponent the standard has as 563 / 256, and browsers as here.
const A98_CURVE: Curve = Curve::power(2.2);
/// The curve of ProPhoto, whose straight part near black browsers leave out.
const PROPHOTO_CURVE: Curve = Curve::power(1.8);
/// The curve of Rec. 2020: the camera's, as browsers ship it.
const REC2020_CURVE: Curve =
    Curve { gamma: 2.222_22, scale: 0.909_672, offset: 0.090_327_6, slope: 0.222_222, end: 0.081_242_9 };

/// Lightness, chroma, hue to lightness and two axes.
fn from_polar(c: Triple) -> Triple {
    let h = f64::from(f64::from(c[2]).to_radians() as f32);
    [c[0], c[1] * h.cos() as f32, c[1] * h.sin() as f32]
}

/// Lightness and two axes to lightness, chroma, hue.
fn to_polar(c: Triple) -> Triple {
    let [a, b] = [c[1], c[2]].map(f64::from);
    [c[0], a.hypot(b) as f32, b.atan2(a).to_degrees().rem_euclid(360.0) as f32]
}

/// The white of D50, as ICC profiles have it.
const D50: Triple = [0.9642, 1.0, 0.8251];

/// Lab to XYZ with D50 white.
fn lab_to_xyz([l, a, b]: Triple) -> Triple {
    let y = (l + 16.0) / 116.0;
    let f = [a / 500.0 + y, y, y - b / 200.0];
    std::array::from_fn(|i| {
        let cube = f[i] * f[i] * f[i];
        D50[i] * if cube > EPSILON { cube } else { 108.0 / 841.0 * (f[i] - 16.0 / 116.0) }
    })
}

/// XYZ with D50 white to Lab.
fn xyz_to_lab(xyz: Triple) -> Triple {
    let [x, y, z] = std::array::from_fn(|i| {
        let v = xyz[i] / D50[i];
        if v > EPSILON { power(v, 1.0 / 3.0) } else { 841.0 / 108.0 * v + 16.0 / 116.0 }
    });
    [116.0 * y - 16.0, 500.0 * (x - y), 200.0 * (y - z)]
}

/// Where the straight part of Lab's curve ends.
const EPSILON: f32 = 216.0 / 24389.0;

/// Oklab to XYZ with D65 white.
fn oklab_to_xyz(c: Triple) -> Triple {
    times(&inverse(&XYZ_TO_LMS), times(&OKLAB_TO_LMS, c).map(|v| v * v * v))
}

/// XYZ with D65 white to Oklab.
fn xyz_to_oklab(xyz: Triple) -> Triple {
    times(&LMS_TO_OKLAB, times(&XYZ_TO_LMS, xyz).map(|v| power(v.abs(), 1.0 / 3.0).copysign(v)))
}

/// HSL to sRGB.
fn hsl_to_rgb(c: [f64; 3]) -> [f64; 3] {
    let (h, s, l) = (c[0].rem_euclid(360.0), c[1] / 100.0, c[2] / 100.0);
    let f = |n: f64| {
        let k = (n + h / 30.0).rem_euclid(12.0);
        l - s * l.min(1.0 - l) * (k - 3.0).min(9.0 - k).clamp(-1.0, 1.0)
    };
    [f(0.0), f(8.0), f(4.0)]
}

/// The hue of an sRGB colour in degrees.
fn hue_of_rgb(c: [f64; 3]) -> f64 {
    let max = c[0].max(c[1]).max(c[2]);
    let d = max - c[0].min(c[1]).min(c[2]);
    if d.abs() <= 1e-12 {
        return 0.0;
    }
    let sixths = if max == c[0] {
        (c[1] - c[2]) / d
    } else if max == c[1] {
        (c[2] - c[0]) / d + 2.0
    } else {
        (c[0] - c[1]) / d + 4.0
    };
    (sixths * 60.0).rem_euclid(360.0)
}

/// sRGB to HSL.
fn rgb_to_hsl(c: [f64; 3]) -> [f64; 3] {
    let max = c[0].max(c[1]).max(c[2]);
    let min = c[0].min(c[1]).min(c[2]);
    let l = (min + max) / 2.0;
    let d = max - min;
    let mut h = hue_of_rgb(c);
    // Next to black and white, what a conversion leaves over would become any saturation at all.
    let mut s = if d.abs() <= 1e-12 || l.min(1.0 - l).abs() <= 1e-6 { 0.0 } else { (max - l) / l.min(1.0 - l) };
    if s < 0.0 {
        h += 180.0;
        s = s.abs();
    }
    [h.rem_euclid(360.0), s * 100.0, l * 100.0]
}

/// HWB to sRGB.
fn hwb_to_rgb(c: [f64; 3]) -> [f64; 3] {
    let (w, b) = (c[1] / 100.0, c[2] / 100.0);
    if w + b >= 1.0 {
        let (w, b) = (w as f32, b as f32);
        return [f64::from(w / (w + b)); 3];
    }
    hsl_to_rgb([c[0], 100.0, 50.0]).map(|v| v * (1.0 - w - b) + w)
}

/// sRGB to HWB.
fn rgb_to_hwb(c: [f64; 3]) -> [f64; 3] {
    let white = c[0].min(c[1]).min(c[2]);
    let black = 1.0 - c[0].max(c[1]).max(c[2]);
    [hue_of_rgb(c), white * 100.0, black * 100.0]
}

/// XYZ with D65 white to XYZ with D50 white, adapted as ICC profiles are (Bradford).
const D65_TO_D50: Matrix = [
    [1.047_857_28, 0.022_907_324_1, -0.050_162_218_5],
    [0.029_570_447_3, 0.990_475_655, -0.017_061_512_9],
    [-0.009_240_472_69, 0.015_052_922_1, 0.751_970_947],
];
/// Linear sRGB to XYZ.
const SRGB_TO_XYZ: Matrix = [
    [0.436_065_674, 0.385_147_095, 0.143_066_406],
    [0.222_488_403, 0.716_873_169, 0.060_607_910_2],
    [0.013_916_015_6, 0.097_076_416_0, 0.714_096_069],
];
/// Linear Display P3 to XYZ.
const P3_TO_XYZ: Matrix =
    [[0.515_102, 0.291_965, 0.157_153], [0.241_182, 0.692_236, 0.066_581_9], [-0.001_049_41, 0.041_881_8, 0.784_378]];
/// Linear A98 to XYZ.
const A98_TO_XYZ: Matrix = [
    [0.609_741_211, 0.205_276_489, 0.149_185_181],
    [0.311_111_450, 0.625_671_387, 0.063_217_163_1],
    [0.019_470_214_8, 0.060_867_309_6, 0.744_567_871],
];
/// Linear ProPhoto to XYZ.
const PROPHOTO_TO_XYZ: Matrix = [
    [0.797_670_066, 0.135_193_929, 0.031_355_954_7],
    [0.288_039_029, 0.711_874_485, 0.000_086_608_961_3],
    [0.000_000_242_035_270, -0.000_001_435_547_12, 0.825_211_167],
];
/// Linear Rec. 2020 to XYZ.
const REC2020_TO_XYZ: Matrix = [
    [0.673_458_457, 0.165_660_873, 0.125_099_897],
    [0.279_032_797, 0.675_337_434, 0.045_628_767_5],
    [-0.001_931_388_51, 0.029_979_378_0, 0.797_161_400],
];
/// XYZ to the cone responses of Oklab.
const XYZ_TO_LMS: Matrix = [
    [0.819_022_443, 0.361_906_256, -0.128_873_783],
    [0.032_983_667_2, 0.929_286_847, 0.036_144_668_2],
    [0.048_177_199_6, 0.264_239_525, 0.633_547_828],
];
/// Cube roots of cone responses to Oklab.
const LMS_TO_OKLAB: Matrix = [
    [0.210_454_268, 0.793_617_775, -0.004_072_043_01],
    [1.977_998_53, -2.428_592_24, 0.450_593_710],
    [0.025_904_031_5, 0.782_771_712, -0.808_675_755],
];
/// Oklab to cube roots of cone responses.
const OKLAB_TO_LMS: Matrix = [
    [1.0, 0.396_337_777, 0.215_803_757],
    [1.0, -0.105_561_346, -0.063_854_172_8],
    [1.0, -0.089_484_177_5, -1.291_485_55],
];
