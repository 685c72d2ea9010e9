//! Colour spaces and the ways between them (CSS Color 4, §10).
//!
//! All conversions go through XYZ with D50 white, where ICC profiles define the RGB spaces; to the last digits this is how
//! browsers do it, while the standard's sample code (§18) goes through D65.
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

/// A matrix.
type Matrix = [[f64; 3]; 3];

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
        if self == other {
            return c;
        }
        // These are sRGB seen otherwise: going through XYZ would only add noise.
        let via_srgb = |s: Self| matches!(s, Self::Hsl | Self::Hwb | Self::Rgb | Self::Srgb | Self::SrgbLinear);
        if via_srgb(self) && via_srgb(other) {
            let rgb = match other {
                Self::Hsl => hsl_to_rgb(c),
                Self::Hwb => hwb_to_rgb(c),
                Self::SrgbLinear => c.map(linear_to_srgb),
                _ => c,
            };
            return match self {
                Self::Hsl => rgb_to_hsl(rgb),
                Self::Hwb => rgb_to_hwb(rgb),
                Self::SrgbLinear => rgb.map(srgb_to_linear),
                _ => rgb,
            };
        }
        if let (Self::Lab, Self::Lch) | (Self::Oklab, Self::Oklch) = (self, other) {
            return from_polar(c);
        }
        if let (Self::Lch, Self::Lab) | (Self::Oklch, Self::Oklab) = (self, other) {
            return to_polar(c);
        }
        self.of_xyz(other.to_xyz(c))
    }

    /// The components as XYZ with D50 white.
    fn to_xyz(self, c: [f64; 3]) -> [f64; 3] {
        match self {
            Self::XyzD50 => c,
            Self::XyzD65 => times(&D65_TO_D50, c),
            Self::Rgb | Self::Srgb => times(&SRGB_TO_XYZ, c.map(srgb_to_linear)),
            Self::SrgbLinear => times(&SRGB_TO_XYZ, c),
            Self::DisplayP3 => times(&P3_TO_XYZ, c.map(srgb_to_linear)),
            Self::DisplayP3Linear => times(&P3_TO_XYZ, c),
            Self::A98 => times(&A98_TO_XYZ, c.map(|v| v.abs().powf(A98_GAMMA).copysign(v))),
            Self::ProPhoto => times(&PROPHOTO_TO_XYZ, c.map(|v| v.abs().powf(PROPHOTO_GAMMA).copysign(v))),
            Self::Rec2020 => times(&REC2020_TO_XYZ, c.map(rec2020_to_linear)),
            Self::Lab => lab_to_xyz(c),
            Self::Lch => lab_to_xyz(from_polar(c)),
            Self::Oklab => times(&D65_TO_D50, oklab_to_xyz(c)),
            Self::Oklch => Self::Oklab.to_xyz(from_polar(c)),
            Self::Hsl => Self::Srgb.to_xyz(hsl_to_rgb(c)),
            Self::Hwb => Self::Srgb.to_xyz(hwb_to_rgb(c)),
        }
    }

    /// Components from XYZ with D50 white.
    fn of_xyz(self, xyz: [f64; 3]) -> [f64; 3] {
        let linear = |to_xyz: &Matrix| times(&inverse(to_xyz), xyz);
        match self {
            Self::XyzD50 => xyz,
            Self::XyzD65 => linear(&D65_TO_D50),
            Self::Rgb | Self::Srgb => linear(&SRGB_TO_XYZ).map(linear_to_srgb),
            Self::SrgbLinear => linear(&SRGB_TO_XYZ),
            Self::DisplayP3 => linear(&P3_TO_XYZ).map(linear_to_srgb),
            Self::DisplayP3Linear => linear(&P3_TO_XYZ),
            Self::A98 => linear(&A98_TO_XYZ).map(|v| v.abs().powf(1.0 / A98_GAMMA).copysign(v)),
            Self::ProPhoto => linear(&PROPHOTO_TO_XYZ).map(|v| v.abs().powf(1.0 / PROPHOTO_GAMMA).copysign(v)),
            Self::Rec2020 => linear(&REC2020_TO_XYZ).map(linear_to_rec2020),
            Self::Lab => xyz_to_lab(xyz),
            Self::Lch => to_polar(xyz_to_lab(xyz)),
            Self::Oklab => xyz_to_oklab(linear(&D65_TO_D50)),
            Self::Oklch => to_polar(xyz_to_oklab(linear(&D65_TO_D50))),
            Self::Hsl => rgb_to_hsl(Self::Srgb.of_xyz(xyz)),
            Self::Hwb => rgb_to_hwb(Self::Srgb.of_xyz(xyz)),
        }
    }
}

/// A matrix times a vector, in single precision as browsers have it: the hue of a grey is what that leaves over.
fn times(m: &Matrix, v: [f64; 3]) -> [f64; 3] {
    let [x, y, z] = v.map(|n| n as f32);
    m.map(|row| f64::from(row[0] as f32 * x + row[1] as f32 * y + row[2] as f32 * z))
}

/// The sRGB transfer function, backwards.
fn srgb_to_linear(v: f64) -> f64 {
    let a = v.abs();
    if a <= 0.040_45 { v / 12.92 } else { ((a + 0.055) / 1.055).powf(2.4).copysign(v) }
}

/// The sRGB transfer function.
fn linear_to_srgb(v: f64) -> f64 {
    let a = v.abs();
    if a > 0.003_130_8 { (1.055 * a.powf(1.0 / 2.4) - 0.055).copysign(v) } else { 12.92 * v }
}

/// The exponent of A98's transfer function, which the standard has as 563 / 256, and browsers as here.
const A98_GAMMA: f64 = 2.2;
/// The exponent of ProPhoto's transfer function, whose straight part near black browsers leave out.
const PROPHOTO_GAMMA: f64 = 1.8;

/// The transfer function of Rec. 2020, backwards: the camera's, as browsers ship it.
fn rec2020_to_linear(v: f64) -> f64 {
    let a = v.abs();
    if a < BETA * 4.5 { v / 4.5 } else { ((a + ALPHA - 1.0) / ALPHA).powf(1.0 / 0.45).copysign(v) }
}

/// The scale of the power part of Rec. 2020's transfer function.
const ALPHA: f64 = 1.099_296_826_809_44;
/// Where its power part begins.
const BETA: f64 = 0.018_053_968_510_807;

/// The transfer function of Rec. 2020.
fn linear_to_rec2020(v: f64) -> f64 {
    let a = v.abs();
    if a > BETA { (ALPHA * a.powf(0.45) - (ALPHA - 1.0)).copysign(v) } else { 4.5 * v }
}

/// Lightness, chroma, hue to lightness and two axes.
fn from_polar(c: [f64; 3]) -> [f64; 3] {
    let h = c[2].to_radians();
    [c[0], c[1] * h.cos(), c[1] * h.sin()]
}

/// Lightness and two axes to lightness, chroma, hue.
fn to_polar(c: [f64; 3]) -> [f64; 3] {
    [c[0], c[1].hypot(c[2]), c[2].atan2(c[1]).to_degrees().rem_euclid(360.0)]
}

/// The white of D50, as ICC profiles have it.
const D50: [f64; 3] = [0.9642, 1.0, 0.8251];

/// The inverse of a matrix that has one.
fn inverse(m: &Matrix) -> Matrix {
    let cofactor = |r: usize, c: usize| {
        let (r1, r2, c1, c2) = ((r + 1) % 3, (r + 2) % 3, (c + 1) % 3, (c + 2) % 3);
        m[r1][c1] * m[r2][c2] - m[r1][c2] * m[r2][c1]
    };
    let determinant: f64 = (0..3).map(|c| m[0][c] * cofactor(0, c)).sum();
    std::array::from_fn(|r| std::array::from_fn(|c| cofactor(c, r) / determinant))
}

/// Lab to XYZ with D50 white.
fn lab_to_xyz(c: [f64; 3]) -> [f64; 3] {
    let (kappa, epsilon) = (24389.0 / 27.0, 216.0 / 24389.0);
    let fy = (c[0] + 16.0) / 116.0;
    let (fx, fz) = (c[1] / 500.0 + fy, fy - c[2] / 200.0);
    let back = |f: f64| {
        if f.powi(3) > epsilon { f.powi(3) } else { (116.0 * f - 16.0) / kappa }
    };
    let y = if c[0] > kappa * epsilon { fy.powi(3) } else { c[0] / kappa };
    [back(fx) * D50[0], y * D50[1], back(fz) * D50[2]]
}

/// XYZ with D50 white to Lab.
fn xyz_to_lab(xyz: [f64; 3]) -> [f64; 3] {
    let (kappa, epsilon) = (24389.0 / 27.0, 216.0 / 24389.0);
    let f = |v: f64| {
        if v > epsilon { v.cbrt() } else { (kappa * v + 16.0) / 116.0 }
    };
    let (x, y, z) = (f(xyz[0] / D50[0]), f(xyz[1] / D50[1]), f(xyz[2] / D50[2]));
    [116.0 * y - 16.0, 500.0 * (x - y), 200.0 * (y - z)]
}

/// Oklab to XYZ with D65 white.
fn oklab_to_xyz(c: [f64; 3]) -> [f64; 3] {
    times(&LMS_TO_XYZ, times(&OKLAB_TO_LMS, c).map(|v| v.powi(3)))
}

/// XYZ with D65 white to Oklab.
fn xyz_to_oklab(xyz: [f64; 3]) -> [f64; 3] {
    times(&LMS_TO_OKLAB, times(&XYZ_TO_LMS, xyz).map(f64::cbrt))
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
        return [w / (w + b); 3];
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
    [1.047_857_290_613_929, 0.022_907_451_756_962_394, -0.050_162_284_127_870_84],
    [0.029_570_493_136_186_756, 0.990_475_499_881_736_2, -0.017_061_492_226_560_88],
    [-0.009_240_454_473_019_438, 0.015_052_968_122_042_744, 0.751_970_844_548_035_5],
];
/// Linear sRGB to XYZ.
const SRGB_TO_XYZ: Matrix = [
    [0.436_065_674, 0.385_147_095, 0.143_066_406],
    [0.222_488_403, 0.716_873_169, 0.060_607_910],
    [0.013_916_016, 0.097_076_416, 0.714_096_069],
];
/// Linear Display P3 to XYZ.
const P3_TO_XYZ: Matrix =
    [[0.515_102, 0.291_965, 0.157_153], [0.241_182, 0.692_236, 0.066_581_9], [-0.001_049_41, 0.041_881_8, 0.784_378]];
/// Linear A98 to XYZ.
const A98_TO_XYZ: Matrix = [
    [0.609_741_211, 0.205_276_489, 0.149_185_181],
    [0.311_111_450, 0.625_671_387, 0.063_217_163],
    [0.019_470_215, 0.060_867_310, 0.744_567_871],
];
/// Linear ProPhoto to XYZ.
const PROPHOTO_TO_XYZ: Matrix = [
    [0.797_670_073_922_280_4, 0.135_194_004_066_814_1, 0.031_355_922_010_905_73],
    [0.288_039_002_887_513_94, 0.711_874_358_326_801_2, 0.000_086_638_785_684_886_7],
    [0.000_000_299_680_885, -0.000_001_405_117_094, 0.825_211_105_436_209_1],
];
/// Linear Rec. 2020 to XYZ.
const REC2020_TO_XYZ: Matrix =
    [[0.673_459, 0.165_661, 0.125_100], [0.279_033, 0.675_338, 0.045_628_8], [-0.001_931_39, 0.029_979_4, 0.797_162]];
/// XYZ to the cone responses of Oklab.
const XYZ_TO_LMS: Matrix = [
    [0.819_022_437_996_703_0, 0.361_906_260_052_890_4, -0.128_873_781_520_987_9],
    [0.032_983_653_932_388_5, 0.929_286_861_589_043_4, 0.036_144_666_350_642_4],
    [0.048_177_189_359_624_2, 0.264_239_531_752_730_8, 0.633_547_828_469_430_9],
];
/// The cone responses of Oklab to XYZ.
const LMS_TO_XYZ: Matrix = [
    [1.226_879_875_845_924_3, -0.557_814_994_660_217_1, 0.281_391_045_665_964_7],
    [-0.040_575_745_214_800_8, 1.112_286_803_280_317, -0.071_711_058_065_516_4],
    [-0.076_372_936_674_660_1, -0.421_493_332_402_243_2, 1.586_924_019_836_781_6],
];
/// Cube roots of cone responses to Oklab.
const LMS_TO_OKLAB: Matrix = [
    [0.210_454_268_309_314_0, 0.793_617_774_702_305_4, -0.004_072_043_011_619_3],
    [1.977_998_532_431_168_4, -2.428_592_242_048_579_9, 0.450_593_709_617_411_0],
    [0.025_904_042_465_547_8, 0.782_771_712_457_529_6, -0.808_675_754_923_077_4],
];
/// Oklab to cube roots of cone responses.
const OKLAB_TO_LMS: Matrix = [
    [1.0, 0.396_337_777_376_174_9, 0.215_803_757_309_913_6],
    [1.0, -0.105_561_345_815_658_6, -0.063_854_172_825_813_3],
    [1.0, -0.089_484_177_529_811_9, -1.291_485_548_019_409_2],
];
