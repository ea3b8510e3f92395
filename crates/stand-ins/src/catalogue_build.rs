//! Builds the dome's catalogue: parse, sort by brightness within patches of sky, index, write.

use std::fs::File;
use std::io::{self, BufRead, BufReader, BufWriter, Write};
use std::path::PathBuf;

/// Settings of the build.
#[derive(clap::Args, Debug)]
pub struct CatalogueBuildArgs {
    /// The catalogue as text
    stars: PathBuf,
    /// The indexed file to write
    #[arg(long)]
    out: PathBuf,
}

/// Patches of sky are squares of this many degrees.
const PATCH_DEGREES: f64 = 5.0;
const PATCHES: usize = 72 * 36;

struct Star {
    patch: usize,
    magnitude: f32,
    ra: f64,
    declination: f64,
    name: String,
}

pub(crate) fn run(args: &CatalogueBuildArgs) -> io::Result<()> {
    let mut stars = Vec::new();
    for (number, line) in BufReader::new(File::open(&args.stars)?).lines().enumerate().skip(1) {
        stars.push(parse(&line?).ok_or_else(|| {
            io::Error::new(io::ErrorKind::InvalidData, format!("line {}: not a star", number + 1))
        })?);
    }
    stars.sort_by(|a, b| {
        a.patch
            .cmp(&b.patch)
            .then(a.magnitude.total_cmp(&b.magnitude))
            .then_with(|| a.name.cmp(&b.name))
    });
    let mut starts = vec![0u32; PATCHES + 1];
    for star in &stars {
        starts[star.patch + 1] += 1;
    }
    for patch in 0..PATCHES {
        starts[patch + 1] += starts[patch];
    }
    let mut out = BufWriter::new(File::create(&args.out)?);
    out.write_all(b"PHCAT001")?;
    for start in starts {
        out.write_all(&start.to_le_bytes())?;
    }
    for star in &stars {
        out.write_all(&star.ra.to_le_bytes())?;
        out.write_all(&star.declination.to_le_bytes())?;
        out.write_all(&star.magnitude.to_le_bytes())?;
        out.write_all(star.name.as_bytes())?;
        out.write_all(b"\n")?;
    }
    out.flush()?;
    writeln!(io::stdout(), "{} stars in {PATCHES} patches", stars.len())
}

fn parse(line: &str) -> Option<Star> {
    let mut fields = line.split(',');
    let name = fields.next()?.to_owned();
    let mut number = || fields.next()?.parse::<f64>().ok();
    let (ra, declination, magnitude) = (number()?, number()?, number()?);
    let column = ((ra / PATCH_DEGREES) as usize).min(71);
    let row = (((declination + 90.0) / PATCH_DEGREES) as usize).min(35);
    Some(Star { patch: row * 72 + column, magnitude: magnitude as f32, ra, declination, name })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::star_catalogue::{self, StarCatalogueArgs};
    use clap::Parser;

    #[derive(Parser)]
    struct Wrap<T: clap::Args> {
        #[command(flatten)]
        args: T,
    }

    #[test]
    fn the_index_counts_every_star_once() {
        let dir = tempfile::tempdir().unwrap();
        let (text, built) = (dir.path().join("stars.txt"), dir.path().join("stars.bin"));
        let make = ["x", "--stars", "500", "--out", text.to_str().unwrap()];
        star_catalogue::run(&Wrap::<StarCatalogueArgs>::parse_from(make).args).unwrap();
        run(&CatalogueBuildArgs { stars: text.clone(), out: built.clone() }).unwrap();
        let bytes = std::fs::read(&built).unwrap();
        let last = &bytes[8 + PATCHES * 4..][..4];
        assert_eq!(u32::from_le_bytes(last.try_into().unwrap()), 500);
        std::fs::write(&text, "name\nnot a star\n").unwrap();
        let refused = run(&CatalogueBuildArgs { stars: text, out: built }).unwrap_err();
        assert_eq!(refused.to_string(), "line 2: not a star");
    }
}
