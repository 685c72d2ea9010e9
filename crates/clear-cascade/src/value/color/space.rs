//! Colour spaces and the ways between them (CSS Color 4, §10 and §18 "Sample code for Color Conversions").
#![allow(clippy::excessive_precision)] // The matrices are the standard's, to the last digit.

/// A colour space.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs, clippy::missing_docs_in_private_items)]
pub(crate) enum Space {
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
        SPACES.iter().find(|(_, s)| *s == self).map_or("", |(n, _)| n)
    }

    /// Whether `color()` takes it.
    pub(super) fn is_predefined(self) -> bool {
        !matches!(self, Self::Lab | Self::Lch | Self::Oklab | Self::Oklch | Self::Hsl | Self::Hwb)
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

    /// What 100% of a component is.
    pub(super) fn full(self, index: usize, by_color_function: bool) -> f64 {
        match (self, index) {
            (Self::Srgb, _) if !by_color_function => 255.0,
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

    /// Whether a colour has no hue worth the name.
    pub(super) fn is_achromatic(self, c: [f64; 3]) -> bool {
        match self {
            Self::Hsl => c[1] <= 0.001,
            Self::Hwb => c[1] + c[2] >= 99.999,
            Self::Lch => c[1] <= 0.0015,
            Self::Oklch => c[1] <= 0.000_004,
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
        // HSL and HWB are sRGB seen otherwise: going through XYZ would only add noise.
        let via_srgb = |s: Self| matches!(s, Self::Hsl | Self::Hwb | Self::Srgb);
        if via_srgb(self) && via_srgb(other) {
            let rgb = match other {
                Self::Hsl => hsl_to_rgb(c),
                Self::Hwb => hwb_to_rgb(c),
                _ => c,
            };
            return match self {
                Self::Hsl => rgb_to_hsl(rgb),
                Self::Hwb => rgb_to_hwb(rgb),
                _ => rgb,
            };
        }
        self.of_xyz(other.to_xyz(c))
    }

    /// The components as XYZ with D65 white.
    fn to_xyz(self, c: [f64; 3]) -> [f64; 3] {
        match self {
            Self::XyzD65 => c,
            Self::XyzD50 => times(&D50_TO_D65, c),
            Self::Srgb => times(&SRGB_TO_XYZ, c.map(srgb_to_linear)),
            Self::SrgbLinear => times(&SRGB_TO_XYZ, c),
            Self::DisplayP3 => times(&P3_TO_XYZ, c.map(srgb_to_linear)),
            Self::DisplayP3Linear => times(&P3_TO_XYZ, c),
            Self::A98 => times(&A98_TO_XYZ, c.map(|v| v.abs().powf(563.0 / 256.0).copysign(v))),
            Self::ProPhoto => times(&D50_TO_D65, times(&PROPHOTO_TO_XYZ, c.map(prophoto_to_linear))),
            Self::Rec2020 => times(&REC2020_TO_XYZ, c.map(rec2020_to_linear)),
            Self::Lab => times(&D50_TO_D65, lab_to_xyz(c)),
            Self::Lch => Self::Lab.to_xyz(from_polar(c)),
            Self::Oklab => oklab_to_xyz(c),
            Self::Oklch => oklab_to_xyz(from_polar(c)),
            Self::Hsl => Self::Srgb.to_xyz(hsl_to_rgb(c)),
            Self::Hwb => Self::Srgb.to_xyz(hwb_to_rgb(c)),
        }
    }

    /// Components from XYZ with D65 white.
    fn of_xyz(self, xyz: [f64; 3]) -> [f64; 3] {
        match self {
            Self::XyzD65 => xyz,
            Self::XyzD50 => times(&D65_TO_D50, xyz),
            Self::Srgb => times(&XYZ_TO_SRGB, xyz).map(linear_to_srgb),
            Self::SrgbLinear => times(&XYZ_TO_SRGB, xyz),
            Self::DisplayP3 => times(&XYZ_TO_P3, xyz).map(linear_to_srgb),
            Self::DisplayP3Linear => times(&XYZ_TO_P3, xyz),
            Self::A98 => times(&XYZ_TO_A98, xyz).map(|v| v.abs().powf(256.0 / 563.0).copysign(v)),
            Self::ProPhoto => times(&XYZ_TO_PROPHOTO, times(&D65_TO_D50, xyz)).map(linear_to_prophoto),
            Self::Rec2020 => times(&XYZ_TO_REC2020, xyz).map(linear_to_rec2020),
            Self::Lab => xyz_to_lab(times(&D65_TO_D50, xyz)),
            Self::Lch => to_polar(Self::Lab.of_xyz(xyz)),
            Self::Oklab => xyz_to_oklab(xyz),
            Self::Oklch => to_polar(xyz_to_oklab(xyz)),
            Self::Hsl => rgb_to_hsl(Self::Srgb.of_xyz(xyz)),
            Self::Hwb => rgb_to_hwb(Self::Srgb.of_xyz(xyz)),
        }
    }
}

/// A matrix times a vector.
fn times(m: &Matrix, v: [f64; 3]) -> [f64; 3] {
    m.map(|row| row[0] * v[0] + row[1] * v[1] + row[2] * v[2])
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

/// The transfer function of ProPhoto, backwards.
fn prophoto_to_linear(v: f64) -> f64 {
    let a = v.abs();
    if a <= 16.0 / 512.0 { v / 16.0 } else { a.powf(1.8).copysign(v) }
}

/// The transfer function of ProPhoto.
fn linear_to_prophoto(v: f64) -> f64 {
    let a = v.abs();
    if a >= 1.0 / 512.0 { a.powf(1.0 / 1.8).copysign(v) } else { 16.0 * v }
}

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

/// The white of D50.
const D50: [f64; 3] = [0.3457 / 0.3585, 1.0, (1.0 - 0.3457 - 0.3585) / 0.3585];

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

/// sRGB to HSL.
fn rgb_to_hsl(c: [f64; 3]) -> [f64; 3] {
    let max = c[0].max(c[1]).max(c[2]);
    let min = c[0].min(c[1]).min(c[2]);
    let l = (min + max) / 2.0;
    let d = max - min;
    let (mut h, mut s) = (0.0, 0.0);
    if d.abs() > 1e-12 {
        s = if l == 0.0 || l == 1.0 { 0.0 } else { (max - l) / l.min(1.0 - l) };
        h = if max == c[0] {
            (c[1] - c[2]) / d + if c[1] < c[2] { 6.0 } else { 0.0 }
        } else if max == c[1] {
            (c[2] - c[0]) / d + 2.0
        } else {
            (c[0] - c[1]) / d + 4.0
        } * 60.0;
    }
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
    [rgb_to_hsl(c)[0], white * 100.0, black * 100.0]
}

/// D50 to D65.
const D50_TO_D65: Matrix = [
    [0.955_473_421_488_075, -0.023_098_454_948_764_71, 0.063_259_243_200_570_72],
    [-0.028_369_709_333_863_7, 1.009_995_398_081_304_1, 0.021_041_441_191_917_323],
    [0.012_314_014_864_481_998, -0.020_507_649_298_898_964, 1.330_365_926_242_124],
];
/// D65 to D50.
const D65_TO_D50: Matrix = [
    [1.047_929_792_544_996_9, 0.022_946_870_601_609_652, -0.050_192_266_289_208_41],
    [0.029_627_807_703_559_9, 0.990_434_429_673_077_3, -0.017_073_799_063_418_826],
    [-0.009_243_040_646_204_504, 0.015_055_191_490_298_152, 0.751_874_280_887_008_7],
];
/// Linear sRGB to XYZ.
const SRGB_TO_XYZ: Matrix = [
    [506_752.0 / 1_228_815.0, 87_881.0 / 245_763.0, 12_673.0 / 70_218.0],
    [87_098.0 / 409_605.0, 175_762.0 / 245_763.0, 12_673.0 / 175_545.0],
    [7_918.0 / 409_605.0, 87_881.0 / 737_289.0, 1_001_167.0 / 1_053_270.0],
];
/// XYZ to linear sRGB.
const XYZ_TO_SRGB: Matrix = [
    [12_831.0 / 3_959.0, -329.0 / 214.0, -1_974.0 / 3_959.0],
    [-851_781.0 / 878_810.0, 1_648_619.0 / 878_810.0, 36_519.0 / 878_810.0],
    [705.0 / 12_673.0, -2_585.0 / 12_673.0, 705.0 / 667.0],
];
/// Linear Display P3 to XYZ.
const P3_TO_XYZ: Matrix = [
    [608_311.0 / 1_250_200.0, 189_793.0 / 714_400.0, 198_249.0 / 1_000_160.0],
    [35_783.0 / 156_275.0, 247_089.0 / 357_200.0, 198_249.0 / 2_500_400.0],
    [0.0, 32_229.0 / 714_400.0, 5_220_557.0 / 5_000_800.0],
];
/// XYZ to linear Display P3.
const XYZ_TO_P3: Matrix = [
    [446_124.0 / 178_915.0, -333_277.0 / 357_830.0, -72_051.0 / 178_915.0],
    [-14_852.0 / 17_905.0, 63_121.0 / 35_810.0, 423.0 / 17_905.0],
    [11_844.0 / 330_415.0, -50_337.0 / 660_830.0, 316_169.0 / 330_415.0],
];
/// Linear A98 to XYZ.
const A98_TO_XYZ: Matrix = [
    [573_536.0 / 994_567.0, 263_643.0 / 1_420_810.0, 187_206.0 / 994_567.0],
    [591_459.0 / 1_989_134.0, 6_239_551.0 / 9_945_670.0, 374_412.0 / 4_972_835.0],
    [53_769.0 / 1_989_134.0, 351_524.0 / 4_972_835.0, 4_929_758.0 / 4_972_835.0],
];
/// XYZ to linear A98.
const XYZ_TO_A98: Matrix = [
    [1_829_569.0 / 896_150.0, -506_331.0 / 896_150.0, -308_931.0 / 896_150.0],
    [-851_781.0 / 878_810.0, 1_648_619.0 / 878_810.0, 36_519.0 / 878_810.0],
    [16_779.0 / 1_248_040.0, -147_721.0 / 1_248_040.0, 1_266_979.0 / 1_248_040.0],
];
/// Linear ProPhoto to XYZ with D50 white.
const PROPHOTO_TO_XYZ: Matrix = [
    [0.797_766_644_907_646_4, 0.135_181_305_077_536_26, 0.031_347_734_118_393_59],
    [0.288_071_285_482_929_35, 0.711_835_234_241_875_7, 0.000_089_936_937_872_564_84],
    [0.0, 0.0, 0.825_104_602_510_46],
];
/// XYZ with D50 white to linear ProPhoto.
const XYZ_TO_PROPHOTO: Matrix = [
    [1.345_786_882_471_591_1, -0.255_572_089_795_561_4, -0.051_110_186_497_530_12],
    [-0.544_623_070_649_074_6, 1.508_247_741_345_282_4, 0.020_525_360_447_560_757],
    [0.0, 0.0, 1.211_967_548_960_736_2],
];
/// Linear Rec. 2020 to XYZ.
const REC2020_TO_XYZ: Matrix = [
    [63_426_534.0 / 99_577_255.0, 20_160_776.0 / 139_408_157.0, 47_086_771.0 / 278_816_314.0],
    [26_158_966.0 / 99_577_255.0, 472_592_308.0 / 697_040_785.0, 8_267_143.0 / 139_408_157.0],
    [0.0, 19_567_812.0 / 697_040_785.0, 295_819_943.0 / 278_816_314.0],
];
/// XYZ to linear Rec. 2020.
const XYZ_TO_REC2020: Matrix = [
    [30_757_411.0 / 17_917_100.0, -6_372_589.0 / 17_917_100.0, -4_539_589.0 / 17_917_100.0],
    [-19_765_991.0 / 29_648_200.0, 47_925_759.0 / 29_648_200.0, 467_509.0 / 29_648_200.0],
    [792_561.0 / 44_930_125.0, -1_921_689.0 / 44_930_125.0, 42_328_811.0 / 44_930_125.0],
];
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
