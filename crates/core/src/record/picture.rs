//! A picture that a lap made, reduced to what tells whether another shows the same.

use serde::{Deserialize, Serialize};

/// Fields along each side of a picture.
pub const FIELDS: u32 = 16;

/// A picture by 16 × 16 fields: the mean colour of each, and its grain.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(into = "Reduced", try_from = "Reduced")]
pub struct Picture {
    /// Pixels across.
    pub width: u32,
    /// Pixels down.
    pub height: u32,
    /// Red, green, blue and grain of each field, row by row, of 255.
    fields: Vec<[u8; 4]>,
}

/// As it is written down: fields in hexadecimal.
#[derive(Serialize, Deserialize)]
struct Reduced {
    width: u32,
    height: u32,
    fields: String,
}

impl From<Picture> for Reduced {
    fn from(picture: Picture) -> Self {
        let fields = picture.fields.iter().flatten().map(|byte| format!("{byte:02x}")).collect();
        Self { width: picture.width, height: picture.height, fields }
    }
}

impl TryFrom<Reduced> for Picture {
    type Error = String;

    fn try_from(reduced: Reduced) -> Result<Self, String> {
        let wrong = || "these are no fields of a picture".to_owned();
        let digits = reduced.fields.as_bytes();
        let byte = |pair: &[u8]| {
            let text = std::str::from_utf8(pair).ok()?;
            u8::from_str_radix(text, 16).ok()
        };
        let bytes: Option<Vec<u8>> = digits.chunks(2).map(byte).collect();
        let bytes = bytes.filter(|bytes| bytes.len() == (FIELDS * FIELDS * 4) as usize);
        let fields = bytes.ok_or_else(wrong)?;
        let fields = fields.chunks_exact(4).map(|f| [f[0], f[1], f[2], f[3]]).collect();
        Ok(Self { width: reduced.width, height: reduced.height, fields })
    }
}

/// In what two pictures differ most.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Aspect {
    /// One is brighter, darker or of another colour.
    Colour,
    /// One is noisier, or has finer detail.
    Grain,
    /// They have other numbers of pixels.
    Size,
}

/// How far two pictures lie apart.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct PicturesApart {
    /// How far, as a share of full scale.
    pub share: f64,
    /// In what most.
    pub aspect: Aspect,
    /// The field in which most: how far across and how far down, as shares.
    pub at: (f64, f64),
}

impl Picture {
    /// Returns a picture of `width` × `height` pixels, red, green and blue of each of 255, row by row; `None` of fewer than
    /// 16 either way, or of other than three bytes a pixel.
    ///
    /// ```text
    /// grain of a field = √(mean (d²) / 2)      d: the step in brightness from a pixel to the next in its row
    /// ```
    /// A gradient hardly enters it, noise does in full.
    ///
    /// * Units: brightness from 0 to 255.
    /// * Source: noise by first differences, von Neumann et al. (1941), <https://doi.org/10.1214/aoms/1177731746>.
    pub fn of(width: u32, height: u32, rgb: &[u8]) -> Option<Self> {
        let pixels = u64::from(width).checked_mul(u64::from(height))?;
        if width < FIELDS || height < FIELDS || rgb.len() as u64 != pixels.checked_mul(3)? {
            return None;
        }
        let mut sums = vec![Sum::default(); (FIELDS * FIELDS) as usize];
        let row_bytes = 3 * width as usize;
        for (y, row) in (0u64..).zip(rgb.chunks_exact(row_bytes)) {
            let down = y * u64::from(FIELDS) / u64::from(height);
            let mut before: Option<f64> = None;
            for (x, pixel) in (0u64..).zip(row.chunks_exact(3)) {
                let across = x * u64::from(FIELDS) / u64::from(width);
                let sum = &mut sums[(down * u64::from(FIELDS) + across) as usize];
                before = Some(sum.add(pixel, before));
            }
        }
        let fields = sums.iter().map(Sum::field).collect();
        Some(Self { width, height, fields })
    }

    /// Returns how far `other` lies from it: the root mean square over all fields, of colour or of grain, whichever is
    /// more. Pictures of other sizes lie apart by everything.
    pub fn apart(&self, other: &Self) -> PicturesApart {
        if (self.width, self.height) != (other.width, other.height) {
            return PicturesApart { share: 1.0, aspect: Aspect::Size, at: (0.5, 0.5) };
        }
        let step = |a: u8, b: u8| (f64::from(a) - f64::from(b)) / 255.0;
        let colour = |(a, b): (&[u8; 4], &[u8; 4])| {
            (0..3).map(|c| step(a[c], b[c]).powi(2)).sum::<f64>() / 3.0
        };
        let grain = |(a, b): (&[u8; 4], &[u8; 4])| step(a[3], b[3]).powi(2);
        let pairs = || self.fields.iter().zip(&other.fields);
        let colours: Vec<f64> = pairs().map(colour).collect();
        let grains: Vec<f64> = pairs().map(grain).collect();
        let rms = |all: &[f64]| (all.iter().sum::<f64>() / all.len() as f64).sqrt();
        let (aspect, all) = match rms(&grains) > rms(&colours) {
            true => (Aspect::Grain, grains),
            false => (Aspect::Colour, colours),
        };
        let most = all.iter().enumerate().max_by(|(_, a), (_, b)| a.total_cmp(b));
        let place = most.map_or(0, |(place, _)| place as u32);
        let middle = |field: u32| (f64::from(field) + 0.5) / f64::from(FIELDS);
        let at = (middle(place % FIELDS), middle(place / FIELDS));
        PicturesApart { share: rms(&all), aspect, at }
    }
}

/// What is added up in a field.
#[derive(Clone, Default)]
struct Sum {
    pixels: f64,
    colours: [f64; 3],
    steps: f64,
    squares: f64,
}

impl Sum {
    /// Adds a pixel and returns its brightness; `before` is that of the one ahead of it in its row.
    fn add(&mut self, pixel: &[u8], before: Option<f64>) -> f64 {
        let [red, green, blue] = [0, 1, 2].map(|c| f64::from(pixel[c]));
        self.pixels += 1.0;
        for (sum, colour) in self.colours.iter_mut().zip([red, green, blue]) {
            *sum += colour;
        }
        // Rec. ITU-R BT.709-6, <https://www.itu.int/rec/R-REC-BT.709-6-201506-I>.
        let brightness = 0.2126 * red + 0.7152 * green + 0.0722 * blue;
        if let Some(before) = before {
            self.steps += 1.0;
            self.squares += (brightness - before).powi(2);
        }
        brightness
    }

    fn field(&self) -> [u8; 4] {
        let whole = |value: f64| value.round().clamp(0.0, 255.0) as u8;
        let grain = (self.squares / self.steps.max(1.0) / 2.0).sqrt();
        let [red, green, blue] = self.colours.map(|sum| whole(sum / self.pixels));
        [red, green, blue, whole(grain)]
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stat::SplitMix;

    /// A sky that brightens downwards, with so much noise on it, and a white square at one place.
    fn sky(noise: f64, square: Option<(u32, u32)>, seed: u64) -> Picture {
        let (width, height) = (320, 200);
        let mut random = SplitMix::new(seed);
        let mut rgb = Vec::new();
        for y in 0..height {
            for x in 0..width {
                let inside = square.is_some_and(|(left, top)| {
                    (left..left + 40).contains(&x) && (top..top + 40).contains(&y)
                });
                let base = 60.0 + 100.0 * f64::from(y) / f64::from(height);
                let value = if inside { 255.0 } else { base + noise * random.normal() };
                rgb.extend([value.round().clamp(0.0, 255.0) as u8; 3]);
            }
        }
        Picture::of(width, height, &rgb).unwrap()
    }

    #[test]
    fn the_same_scene_with_other_noise_is_the_same_and_a_missing_thing_is_not() {
        let one = sky(10.0, Some((200, 20)), 1);
        let again = one.apart(&sky(10.0, Some((200, 20)), 2));
        assert!(again.share < 0.01, "{again:?}");
        let missing = one.apart(&sky(10.0, None, 3));
        assert!(missing.share > 0.05 && missing.aspect == Aspect::Colour, "{missing:?}");
        assert!((missing.at.0 - 0.68).abs() < 0.08 && (missing.at.1 - 0.2).abs() < 0.1);
    }

    #[test]
    fn fewer_samples_show_as_grain_and_other_sizes_as_size() {
        let noisy = sky(4.0, None, 1).apart(&sky(25.0, None, 2));
        assert!(noisy.aspect == Aspect::Grain && noisy.share > 0.05, "{noisy:?}");
        let small = Picture::of(32, 32, &[90; 32 * 32 * 3]).unwrap();
        let apart = small.apart(&sky(4.0, None, 1));
        assert_eq!((apart.aspect, apart.share), (Aspect::Size, 1.0));
        assert_eq!(small.apart(&small).share, 0.0);
        assert_eq!(Picture::of(8, 8, &[0; 192]), None);
        assert_eq!(Picture::of(32, 32, &[0; 7]), None);
    }

    #[test]
    fn what_is_written_down_is_read_back_and_nonsense_is_refused() {
        let picture = sky(10.0, None, 1);
        let text = serde_json::to_string(&picture).unwrap();
        assert!(text.len() < 2_200, "{}", text.len());
        assert_eq!(serde_json::from_str::<Picture>(&text).unwrap(), picture);
        for bad in [
            r#"{"width":1,"height":1,"fields":""}"#,
            &text.replace("\"fields\":\"", "\"fields\":\"zz"),
        ] {
            assert!(serde_json::from_str::<Picture>(bad).is_err(), "{bad}");
        }
    }
}
