//! Drawn pictures of trays: what covers them is known to the pixel, so that the measuring can be
//! held against the truth, and the demo farm has pictures.

use iron_twin_photo::{Corners, Picture};
use rand::RngExt;
use rand::SeedableRng;
use rand_chacha::ChaCha8Rng;

/// What makes a picture hard to measure.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Setting {
    /// A tan mat in even light.
    Plain,
    /// A white mat.
    WhiteMat,
    /// A dark soil.
    Soil,
    /// A shadow lies over a part of it.
    Shadow,
    /// Brown stems and hulls lie between the leaves.
    BrownStems,
    /// Spots of light on the leaves.
    Reflections,
    /// Yellow light, as of a lamp, with a grey card in the corner.
    LampAndCard,
}

impl Setting {
    /// All of them.
    pub const ALL: [Self; 7] = [
        Self::Plain,
        Self::WhiteMat,
        Self::Soil,
        Self::Shadow,
        Self::BrownStems,
        Self::Reflections,
        Self::LampAndCard,
    ];

    /// As it is told.
    #[must_use]
    pub fn words(self) -> &'static str {
        match self {
            Self::Plain => "tan mat, even light",
            Self::WhiteMat => "white mat",
            Self::Soil => "dark soil",
            Self::Shadow => "a shadow over half of it",
            Self::BrownStems => "brown stems and hulls",
            Self::Reflections => "spots of light on the leaves",
            Self::LampAndCard => "yellow lamp, grey card",
        }
    }

    fn ground(self) -> [f64; 3] {
        match self {
            Self::WhiteMat => [236.0, 236.0, 232.0],
            Self::Soil => [62.0, 50.0, 40.0],
            _ => [188.0, 166.0, 128.0],
        }
    }
}

/// What is drawn.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Drawing {
    /// What makes it hard.
    pub setting: Setting,
    /// Pixels in a row.
    pub width: usize,
    /// Rows.
    pub height: usize,
    /// Leaves that are strewn over the tray.
    pub leaves: usize,
    /// Share of the leaves that are yellow.
    pub yellow: f64,
    /// Share of the leaves that are red.
    pub red: f64,
    /// Colour of a green leaf, sRGB.
    pub green: [u8; 3],
    /// Seed of all that is drawn by chance.
    pub seed: u64,
}

impl Default for Drawing {
    fn default() -> Self {
        Self {
            setting: Setting::Plain,
            width: 400,
            height: 300,
            leaves: 220,
            yellow: 0.0,
            red: 0.0,
            green: [86, 128, 62],
            seed: 1,
        }
    }
}

/// A drawn picture, and what is true of it.
#[derive(Debug, Clone, PartialEq)]
pub struct Drawn {
    /// Pixels in a row.
    pub width: usize,
    /// Rows.
    pub height: usize,
    /// Three bytes a pixel.
    pub pixels: Vec<u8>,
    /// Corners of the tray.
    pub corners: Corners,
    /// Centre of the grey card, where there is one.
    pub card: Option<[f64; 2]>,
    /// Share of the tray that is leaf, per cent.
    pub cover_percent: f64,
    /// Share of the leaf that is yellow, per cent.
    pub yellow_percent: f64,
    /// Share of the leaf that is red, per cent.
    pub red_percent: f64,
}

impl Drawn {
    /// As a picture to measure.
    #[must_use]
    pub fn picture(&self) -> Picture<'_> {
        Picture {
            width: self.width,
            height: self.height,
            pixels: &self.pixels,
        }
    }
}

#[derive(Clone, Copy, PartialEq)]
enum Label {
    Ground,
    Brown,
    Green,
    Yellow,
    Red,
}

/// Corners of the tray in every drawn picture: it is seen at a slight slant.
const CORNERS: Corners = [[0.06, 0.08], [0.95, 0.05], [0.97, 0.94], [0.04, 0.96]];

/// An ellipse that lies somewhere at some angle.
struct Blade {
    centre: [f64; 2],
    half: [f64; 2],
    angle: f64,
}

impl Blade {
    fn covers(&self, x: f64, y: f64) -> bool {
        let (dx, dy) = (x - self.centre[0], y - self.centre[1]);
        let (sin, cos) = self.angle.sin_cos();
        let (along, across) = (dx * cos + dy * sin, dy * cos - dx * sin);
        (along / self.half[0]).powi(2) + (across / self.half[1]).powi(2) <= 1.0
    }

    /// Paints every pixel that it covers.
    fn paint(&self, width: usize, height: usize, mut put: impl FnMut(usize)) {
        let reach = self.half[0].max(self.half[1]);
        let span = |centre: f64, side: usize| {
            let from = (centre - reach).floor().max(0.0) as usize;
            from..((centre + reach).ceil().max(0.0) as usize).min(side)
        };
        for y in span(self.centre[1], height) {
            for x in span(self.centre[0], width) {
                if self.covers(x as f64 + 0.5, y as f64 + 0.5) {
                    put(y * width + x);
                }
            }
        }
    }
}

struct Canvas {
    labels: Vec<Label>,
    colours: Vec<[f64; 3]>,
}

/// Draws a tray.
#[must_use]
pub fn draw(what: &Drawing) -> Drawn {
    let mut chance = ChaCha8Rng::seed_from_u64(what.seed);
    let (width, height) = (what.width, what.height);
    let all = width * height;
    let mut canvas = Canvas {
        labels: vec![Label::Ground; all],
        colours: vec![what.setting.ground(); all],
    };
    let size = width as f64 / 400.0;
    if what.setting == Setting::BrownStems {
        strew(
            &mut canvas,
            what,
            &mut chance,
            90,
            [16.0 * size, 1.6 * size],
            |_| (Label::Brown, [112.0, 78.0, 46.0]),
        );
    }
    let green = what.green.map(f64::from);
    let (yellow, red) = (what.yellow, what.red);
    let leaf = |chance: &mut ChaCha8Rng| {
        let (kind, shade) = (chance.random::<f64>(), 0.82 + 0.36 * chance.random::<f64>());
        let (label, colour) = match kind {
            k if k < yellow => (Label::Yellow, [214.0, 190.0, 70.0]),
            k if k < yellow + red => (Label::Red, [128.0, 34.0, 54.0]),
            _ => (Label::Green, green),
        };
        (label, colour.map(|c: f64| c * shade))
    };
    strew(
        &mut canvas,
        what,
        &mut chance,
        what.leaves,
        [11.0 * size, 6.5 * size],
        leaf,
    );
    if what.setting == Setting::Reflections {
        shine(&mut canvas, what, &mut chance, size);
    }
    let truth = truth(&canvas, width, height);
    let card = (what.setting == Setting::LampAndCard).then_some([0.02, 0.02]);
    let pixels = pixels(&canvas, what, card.is_some(), &mut chance);
    let [cover, yellow, red] = truth;
    Drawn {
        width,
        height,
        pixels,
        corners: CORNERS,
        card,
        cover_percent: cover,
        yellow_percent: yellow,
        red_percent: red,
    }
}

/// What a small sensor makes of the canvas.
fn pixels(canvas: &Canvas, what: &Drawing, card: bool, chance: &mut ChaCha8Rng) -> Vec<u8> {
    let (width, height) = (what.width, what.height);
    let mut pixels = Vec::with_capacity(3 * width * height);
    for (i, colour) in canvas.colours.iter().enumerate() {
        let (x, y) = (
            (i % width) as f64 / width as f64,
            (i / width) as f64 / height as f64,
        );
        let colour = if card && x < 0.045 && y < 0.06 {
            [150.0; 3]
        } else {
            *colour
        };
        for value in lit(what.setting, colour, x, y) {
            // The noise of a small sensor, and a fall of light towards the corners.
            let noise = 5.0 * (chance.random::<f64>() + chance.random::<f64>() - 1.0);
            let fall = 1.0 - 0.12 * ((x - 0.5).powi(2) + (y - 0.5).powi(2));
            pixels.push((value * fall + noise).clamp(0.0, 255.0) as u8);
        }
    }
    pixels
}

/// Strews ellipses over the picture, one over the other.
fn strew(
    canvas: &mut Canvas,
    what: &Drawing,
    chance: &mut ChaCha8Rng,
    count: usize,
    half: [f64; 2],
    mut kind: impl FnMut(&mut ChaCha8Rng) -> (Label, [f64; 3]),
) {
    for _ in 0..count {
        let (label, colour) = kind(chance);
        let scale = 0.7 + 0.6 * chance.random::<f64>();
        let blade = Blade {
            centre: [
                chance.random::<f64>() * what.width as f64,
                chance.random::<f64>() * what.height as f64,
            ],
            half: half.map(|h| h * scale),
            angle: chance.random::<f64>() * std::f64::consts::PI,
        };
        blade.paint(what.width, what.height, |i| {
            canvas.labels[i] = label;
            canvas.colours[i] = colour;
        });
    }
}

/// Puts small spots of light on leaves; a spot on the ground would be no reflection.
fn shine(canvas: &mut Canvas, what: &Drawing, chance: &mut ChaCha8Rng, size: f64) {
    for _ in 0..60 {
        let centre = [
            chance.random::<f64>() * what.width as f64,
            chance.random::<f64>() * what.height as f64,
        ];
        let spot = Blade {
            centre,
            half: [2.4 * size, 1.5 * size],
            angle: chance.random::<f64>() * 3.0,
        };
        let mut covered = Vec::new();
        spot.paint(what.width, what.height, |i| covered.push(i));
        if covered.iter().all(|i| canvas.labels[*i] == Label::Green) {
            covered
                .into_iter()
                .for_each(|i| canvas.colours[i] = [246.0, 248.0, 244.0]);
        }
    }
}

/// A colour as it is seen in the light of the setting; shadow and lamp work on light, not on bytes.
fn lit(setting: Setting, colour: [f64; 3], x: f64, y: f64) -> [f64; 3] {
    let by = |gains: [f64; 3]| {
        let mut out = colour;
        for (c, gain) in out.iter_mut().zip(gains) {
            *c = 255.0 * ((*c / 255.0).powf(2.2) * gain).powf(1.0 / 2.2);
        }
        out
    };
    match setting {
        Setting::Shadow if x + 0.3 * y > 0.62 => by([0.30, 0.32, 0.38]),
        Setting::LampAndCard => by([1.0, 0.80, 0.42]),
        _ => colour,
    }
}

/// Cover of the tray, and the shares of yellow and red in the leaf, per cent.
fn truth(canvas: &Canvas, width: usize, height: usize) -> [f64; 3] {
    let side = |i: usize, x: f64, y: f64| {
        let (a, b) = (CORNERS[i], CORNERS[(i + 1) % 4]);
        (b[0] - a[0]) * (y - a[1]) - (b[1] - a[1]) * (x - a[0])
    };
    let mut counts = [0.0; 4];
    for (i, label) in canvas.labels.iter().enumerate() {
        let (x, y) = (
            ((i % width) as f64 + 0.5) / width as f64,
            ((i / width) as f64 + 0.5) / height as f64,
        );
        if (0..4).all(|s| side(s, x, y) >= 0.0) {
            counts[0] += 1.0;
            counts[1] += f64::from(u8::from(matches!(
                label,
                Label::Green | Label::Yellow | Label::Red
            )));
            counts[2] += f64::from(u8::from(*label == Label::Yellow));
            counts[3] += f64::from(u8::from(*label == Label::Red));
        }
    }
    let [tray, leaf, yellow, red] = counts;
    [
        100.0 * leaf / tray,
        100.0 * yellow / leaf.max(1.0),
        100.0 * red / leaf.max(1.0),
    ]
}
