//! Pictures that laps make: PNG and JPEG, reduced to what tells whether two show the same.

use crate::plain_file::open_plain;
use honest_lap_core::record::Picture;
use png::{BitDepth, ColorType, Transformations};
use std::fs::File;
use std::io::{BufReader, Read, Seek};
use std::path::Path;
use zune_jpeg::JpegDecoder;
use zune_jpeg::zune_core::colorspace::ColorSpace;
use zune_jpeg::zune_core::options::DecoderOptions;

/// A picture of more pixels is not looked at: it would take memory that the next lap needs.
const MOST_PIXELS: u64 = 100_000_000;
/// A file of more bytes is no picture of so many pixels.
const MOST_BYTES: u64 = 1 << 30;

/// Returns the picture at `path`.
///
/// * Errors: it is no PNG and no JPEG, is damaged, too large, or smaller than can be compared.
pub(crate) fn read_picture(path: &Path) -> Result<Picture, String> {
    let mut file = open_plain(path).map_err(|err| err.to_string())?;
    let size = file.metadata().map_err(|err| err.to_string())?.len();
    if size > MOST_BYTES {
        return Err(format!("it is larger than a picture can be ({} MB)", size >> 20));
    }
    let mut first = [0; 8];
    let got = file.read(&mut first).map_err(|err| err.to_string())?;
    file.rewind().map_err(|err| err.to_string())?;
    match &first[..got] {
        [0x89, b'P', b'N', b'G', ..] => png(file),
        [0xff, 0xd8, 0xff, ..] => jpeg(file),
        _ => Err("it is neither PNG nor JPEG".to_owned()),
    }
}

fn reduced(width: u32, height: u32, rgb: &[u8]) -> Result<Picture, String> {
    let too_small = || format!("{width} × {height} pixels are too few to compare");
    Picture::of(width, height, rgb).ok_or_else(too_small)
}

fn few_enough(width: u32, height: u32) -> Result<(), String> {
    match u64::from(width) * u64::from(height) <= MOST_PIXELS {
        true => Ok(()),
        false => Err(format!("{width} × {height} pixels are more than are looked at")),
    }
}

fn png(file: File) -> Result<Picture, String> {
    let damaged = |err: png::DecodingError| format!("as PNG it is damaged: {err}");
    let mut decoder = png::Decoder::new(BufReader::new(file));
    // Palettes become colours, and 16 bits 8.
    decoder.set_transformations(Transformations::normalize_to_color8());
    let mut reader = decoder.read_info().map_err(damaged)?;
    let (width, height) = (reader.info().width, reader.info().height);
    few_enough(width, height)?;
    let bytes = reader.output_buffer_size().ok_or("as PNG it is too large")?;
    let mut pixels = vec![0; bytes];
    let frame = reader.next_frame(&mut pixels).map_err(damaged)?;
    pixels.truncate(frame.buffer_size());
    if frame.bit_depth != BitDepth::Eight {
        return Err("its depth of colour cannot be read".to_owned());
    }
    let of_each = frame.color_type.samples();
    let gray = matches!(frame.color_type, ColorType::Grayscale | ColorType::GrayscaleAlpha);
    let rgb: Vec<u8> = match (gray, of_each) {
        (false, 3) => pixels,
        (true, _) => pixels.chunks_exact(of_each).flat_map(|pixel| [pixel[0]; 3]).collect(),
        (false, _) => pixels.chunks_exact(of_each).flat_map(|p| [p[0], p[1], p[2]]).collect(),
    };
    reduced(width, height, &rgb)
}

fn jpeg(file: File) -> Result<Picture, String> {
    let damaged = |err| format!("as JPEG it is damaged: {err:?}");
    let options = DecoderOptions::default().jpeg_set_out_colorspace(ColorSpace::RGB);
    let mut decoder = JpegDecoder::new_with_options(BufReader::new(file), options);
    decoder.decode_headers().map_err(damaged)?;
    let info = decoder.info().ok_or("as JPEG it has no size")?;
    let (width, height) = (u32::from(info.width), u32::from(info.height));
    few_enough(width, height)?;
    let rgb = decoder.decode().map_err(damaged)?;
    reduced(width, height, &rgb)
}

#[cfg(test)]
mod tests {
    use super::*;
    use honest_lap_core::record::Aspect;

    fn written(path: &Path, color: ColorType, pixels: &[u8]) {
        let file = File::create(path).unwrap();
        let mut encoder = png::Encoder::new(file, 32, 16);
        encoder.set_color(color);
        encoder.write_header().unwrap().write_image_data(pixels).unwrap();
    }

    #[test]
    fn pictures_are_read_whatever_their_colours_and_nothing_else_is() {
        let dir = tempfile::tempdir().unwrap();
        let path = |name: &str| dir.path().join(name);
        written(&path("gray.png"), ColorType::Grayscale, &[90; 512]);
        written(&path("rgb.png"), ColorType::Rgb, &[90; 512 * 3]);
        let rgba: Vec<u8> = [90, 90, 90, 7].repeat(512);
        written(&path("rgba.png"), ColorType::Rgba, &rgba);
        let of = |name: &str| read_picture(&path(name));
        let gray = of("gray.png").unwrap();
        assert_eq!((gray.width, gray.height), (32, 16));
        for other in ["rgb.png", "rgba.png"] {
            assert_eq!(gray.apart(&of(other).unwrap()).share, 0.0, "{other}");
        }
        written(&path("white.png"), ColorType::Rgb, &[255; 512 * 3]);
        let apart = gray.apart(&of("white.png").unwrap());
        assert!(apart.aspect == Aspect::Colour && apart.share > 0.6, "{apart:?}");
        std::fs::write(path("text"), "a picture").unwrap();
        assert_eq!(of("text").unwrap_err(), "it is neither PNG nor JPEG");
        let whole = std::fs::read(path("rgb.png")).unwrap();
        std::fs::write(path("cut.png"), &whole[..whole.len() / 2]).unwrap();
        assert!(of("cut.png").unwrap_err().contains("damaged"));
        std::fs::write(path("cut.jpg"), [0xff, 0xd8, 0xff, 0xe0, 0, 16]).unwrap();
        assert!(of("cut.jpg").unwrap_err().contains("damaged"));
        // Sizes that a header only claims take no memory.
        let mut huge = whole;
        huge[16..24].copy_from_slice(&[0x7f, 0xff, 0xff, 0xff, 0x7f, 0xff, 0xff, 0xff]);
        std::fs::write(path("huge.png"), huge).unwrap();
        assert!(of("huge.png").is_err());
    }
}
