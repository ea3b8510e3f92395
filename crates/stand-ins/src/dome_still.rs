//! A path tracer: a planet with its moons over still water, seen through a fisheye lens.

use honest_lap_core::stat::SplitMix;
use std::fs::File;
use std::io::{self, BufWriter};
use std::ops::{Add, Mul, Sub};
use std::path::PathBuf;
use std::sync::atomic::{AtomicUsize, Ordering};

/// Settings of one still.
#[derive(clap::Args, Debug)]
pub struct DomeStillArgs {
    /// Threads that render
    #[arg(long, default_value_t = 1, value_parser = clap::value_parser!(u16).range(1..=512))]
    threads: u16,
    /// Width and height in pixels
    #[arg(long, default_value_t = 512, value_parser = clap::value_parser!(u32).range(1..=16384))]
    size: u32,
    /// Light paths a pixel
    #[arg(long, default_value_t = 24, value_parser = clap::value_parser!(u32).range(1..=65536))]
    paths: u32,
    /// The PNG to write
    #[arg(long)]
    out: PathBuf,
}

pub(crate) fn run(args: &DomeStillArgs) -> io::Result<()> {
    let size = args.size as usize;
    let next_row = AtomicUsize::new(0);
    let mut pixels = vec![0u8; size * size * 3];
    let rows: Vec<(usize, Vec<u8>)> = std::thread::scope(|scope| {
        let work = || {
            let mut done = Vec::new();
            loop {
                let y = next_row.fetch_add(1, Ordering::Relaxed);
                if y >= size {
                    return done;
                }
                done.push((y, render_row(y, size, args.paths)));
            }
        };
        let threads: Vec<_> = (0..args.threads).map(|_| scope.spawn(work)).collect();
        threads.into_iter().flat_map(|thread| thread.join().unwrap_or_default()).collect()
    });
    for (y, row) in rows {
        pixels[y * size * 3..][..size * 3].copy_from_slice(&row);
    }
    let mut encoder =
        png::Encoder::new(BufWriter::new(File::create(&args.out)?), args.size, args.size);
    encoder.set_color(png::ColorType::Rgb);
    encoder.set_depth(png::BitDepth::Eight);
    encoder.write_header()?.write_image_data(&pixels)?;
    Ok(())
}

pub(crate) fn render_row(y: usize, size: usize, paths: u32) -> Vec<u8> {
    (0..size).flat_map(|x| render_pixel(x, y, size, paths)).collect()
}

/// The light of one pixel depends on its place alone, so threads cannot change the picture.
fn render_pixel(x: usize, y: usize, size: usize, paths: u32) -> [u8; 3] {
    let mut noise = SplitMix::new((y * size + x) as u64);
    let mut sum = Vec3(0.0, 0.0, 0.0);
    for _ in 0..paths {
        let u = (x as f64 + noise.unit()) / size as f64 * 2.0 - 1.0;
        let v = (y as f64 + noise.unit()) / size as f64 * 2.0 - 1.0;
        let radius = (u * u + v * v).sqrt();
        if radius < 1.0 {
            // Equidistant fisheye: the angle off the axis grows with the radius.
            let (angle, turn) = (radius * std::f64::consts::FRAC_PI_2, v.atan2(u));
            let toward = Vec3(angle.sin() * turn.cos(), -angle.sin() * turn.sin(), angle.cos());
            sum = sum + light(Vec3(0.0, 1.0, 0.0), toward, &mut noise);
        }
    }
    let mean = sum * (1.0 / f64::from(paths));
    [mean.0, mean.1, mean.2].map(|c| (c.clamp(0.0, 1.0).powf(1.0 / 2.2) * 255.0) as u8)
}

#[derive(Clone, Copy)]
struct Vec3(f64, f64, f64);

impl Add for Vec3 {
    type Output = Self;
    fn add(self, o: Self) -> Self {
        Self(self.0 + o.0, self.1 + o.1, self.2 + o.2)
    }
}

impl Sub for Vec3 {
    type Output = Self;
    fn sub(self, o: Self) -> Self {
        self + o * -1.0
    }
}

impl Mul<f64> for Vec3 {
    type Output = Self;
    fn mul(self, k: f64) -> Self {
        Self(self.0 * k, self.1 * k, self.2 * k)
    }
}

impl Vec3 {
    fn dot(self, o: Self) -> f64 {
        self.0 * o.0 + self.1 * o.1 + self.2 * o.2
    }

    fn unit(self) -> Self {
        self * (1.0 / self.dot(self).sqrt())
    }

    fn tint(self, o: Self) -> Self {
        Self(self.0 * o.0, self.1 * o.1, self.2 * o.2)
    }
}

/// Centre, radius, colour, and how much it mirrors.
const SPHERES: [(Vec3, f64, Vec3, f64); 5] = [
    (Vec3(0.0, 2.2, 6.0), 2.0, Vec3(0.80, 0.62, 0.42), 0.0),
    (Vec3(-3.2, 2.6, 5.0), 0.6, Vec3(0.70, 0.72, 0.78), 0.1),
    (Vec3(2.9, 3.4, 5.5), 0.45, Vec3(0.55, 0.40, 0.60), 0.6),
    (Vec3(1.6, 0.7, 3.2), 0.35, Vec3(0.36, 0.49, 0.29), 0.0),
    (Vec3(-1.4, 0.6, 2.8), 0.30, Vec3(0.92, 0.92, 0.92), 0.9),
];

/// Follows a path of light backwards from `from` along `toward`.
fn light(from: Vec3, toward: Vec3, noise: &mut SplitMix) -> Vec3 {
    let (mut from, mut toward) = (from, toward);
    let mut carried = Vec3(1.0, 1.0, 1.0);
    for _ in 0..6 {
        let Some((at, normal, colour, mirror)) = nearest(from, toward) else {
            return carried.tint(sky(toward));
        };
        carried = carried.tint(colour);
        let mirrored = toward - normal * (2.0 * toward.dot(normal));
        let scattered = (normal + on_sphere(noise)).unit();
        toward = if noise.unit() < mirror { mirrored } else { scattered };
        from = at + normal * 1e-6;
    }
    Vec3(0.0, 0.0, 0.0)
}

fn nearest(from: Vec3, toward: Vec3) -> Option<(Vec3, Vec3, Vec3, f64)> {
    let mut best: Option<(f64, Vec3, Vec3, f64)> = None;
    if toward.1 < 0.0 {
        // The water lies at height 0.
        let distance = -from.1 / toward.1;
        if distance > 1e-6 {
            best = Some((distance, Vec3(0.0, 1.0, 0.0), Vec3(0.30, 0.42, 0.50), 0.7));
        }
    }
    for (centre, radius, colour, mirror) in SPHERES {
        let offset = from - centre;
        let half = offset.dot(toward);
        let root = half * half - offset.dot(offset) + radius * radius;
        let distance = -half - root.max(0.0).sqrt();
        if root > 0.0 && distance > 1e-6 && best.is_none_or(|(nearer, ..)| distance < nearer) {
            let normal = (from + toward * distance - centre) * (1.0 / radius);
            best = Some((distance, normal, colour, mirror));
        }
    }
    best.map(|(distance, normal, colour, mirror)| {
        (from + toward * distance, normal, colour, mirror)
    })
}

/// Dusk at the horizon, a low sun, and stars that stand still.
fn sky(toward: Vec3) -> Vec3 {
    let height = toward.1.max(0.0);
    let dusk = Vec3(0.75, 0.52, 0.28) * (-6.0 * height).exp() + Vec3(0.05, 0.09, 0.18);
    let sun = toward.dot(Vec3(-0.75, 0.25, 0.61).unit()).max(0.0).powi(400) * 40.0;
    let cell = |v: f64| (v * 90.0).floor() as i64 as u64;
    let place = cell(toward.0) ^ cell(toward.1).rotate_left(21) ^ cell(toward.2).rotate_left(42);
    let star = if SplitMix::new(place).unit() < 0.004 { 1.5 * height } else { 0.0 };
    dusk + Vec3(1.0, 0.9, 0.7) * sun + Vec3(1.0, 1.0, 1.0) * star
}

fn on_sphere(noise: &mut SplitMix) -> Vec3 {
    let (z, turn) = (noise.unit() * 2.0 - 1.0, noise.unit() * std::f64::consts::TAU);
    let flat = (1.0 - z * z).sqrt();
    Vec3(flat * turn.cos(), flat * turn.sin(), z)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn more_threads_draw_the_same_picture() {
        let dir = tempfile::tempdir().unwrap();
        let draw = |threads| {
            let out = dir.path().join(format!("{threads}.png"));
            run(&DomeStillArgs { threads, size: 40, paths: 2, out: out.clone() }).unwrap();
            std::fs::read(out).unwrap()
        };
        let picture = draw(1);
        assert_eq!(picture, draw(3));
        assert!(picture.starts_with(b"\x89PNG"));
    }
}
