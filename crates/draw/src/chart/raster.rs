//! From SVG to PNG, with the font that ships with the tool and none of the system's.

use super::drawing::Drawing;
use super::face::FONTS;
use super::paint::Look;
use resvg::tiny_skia::{Pixmap, Transform};
use resvg::usvg::{Options, Tree};
use std::sync::Arc;

/// Why a figure could not be drawn.
#[derive(Debug, thiserror::Error)]
#[error("the figure cannot be drawn: {why}")]
pub struct RasterError {
    /// Why.
    why: String,
}

impl Drawing {
    /// Returns the drawing's picture, `scale` pixels to each of its units, as PNG.
    pub fn png(&self, look: Look, scale: f32) -> Result<Vec<u8>, RasterError> {
        png(&self.for_picture(look), scale)
    }
}

fn png(svg: &str, scale: f32) -> Result<Vec<u8>, RasterError> {
    let failed = |why: String| RasterError { why };
    let mut options = Options { font_family: "Inter".to_owned(), ..Options::default() };
    let fonts = Arc::make_mut(&mut options.fontdb);
    for font in FONTS {
        fonts.load_font_data(font.to_vec());
    }
    fonts.set_sans_serif_family("Inter");
    let tree = Tree::from_str(svg, &options).map_err(|err| failed(err.to_string()))?;
    let size = tree.size().to_int_size().scale_by(scale);
    let size = size.ok_or_else(|| failed("it has no size".to_owned()))?;
    let mut picture = Pixmap::new(size.width(), size.height())
        .ok_or_else(|| failed("it is too large".to_owned()))?;
    resvg::render(&tree, Transform::from_scale(scale, scale), &mut picture.as_mut());
    picture.encode_png().map_err(|err| failed(err.to_string()))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_figure_becomes_a_picture_with_text_in_it() {
        let figure = |words: &str| {
            format!(
                "<svg xmlns='http://www.w3.org/2000/svg' width='80' height='20' font-family='Inter'>\
                 <text x='2' y='15' font-size='12'>{words}</text></svg>"
            )
        };
        let drawn = png(&figure("heron"), 2.0).unwrap();
        assert_eq!(&drawn[1..4], b"PNG");
        assert_eq!(drawn[16..24], [0, 0, 0, 160, 0, 0, 0, 40]);
        assert_ne!(drawn, png(&figure(""), 2.0).unwrap(), "the letters are there");
        assert!(png("no figure", 1.0).is_err());
    }
}
