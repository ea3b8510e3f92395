//! `produces`: what a lap must have made.

use crate::keys::PRODUCT;
use crate::launch::launch;
use crate::places::Places;
use crate::section::{Section, Value};
use honest_lap_core::record::Product;
use honest_lap_core::unit::parse_size;
use toml::Spanned;

/// Returns what a lap must have produced, and which of it are pictures that are to show the same.
pub(crate) fn products(
    section: &Section,
    places: &mut Places,
) -> (Vec<Product>, Vec<(String, f64)>) {
    let items = section.list("produces").unwrap_or_default();
    let read = items.iter().filter_map(|item| product(section, item, places));
    let (mut products, mut pictures) = (Vec::new(), Vec::new());
    for (product, same_picture) in read {
        pictures.extend(same_picture.map(|share| (product.file.source().to_owned(), share)));
        products.push(product);
    }
    (products, pictures)
}

fn product(
    section: &Section,
    item: &Value<'_>,
    places: &mut Places,
) -> Option<(Product, Option<f64>)> {
    let what = format!("`produces` of {}", section.what);
    let inner = Section::open(section.mistakes, what, item, &PRODUCT)?;
    if inner.get("file").is_none() {
        let remedy = "name the file: { file = \"{lap_dir}/still.png\" }";
        section.mistakes.add(
            item.span(),
            format!("{} has an entry without file", inner.what),
            remedy,
        );
    }
    let sha256 = inner.text("sha256").map(str::to_lowercase).filter(|sum| {
        let well_formed = sum.len() == 64 && sum.chars().all(|c| c.is_ascii_hexdigit());
        if !well_formed {
            let span = inner.get("sha256").map_or(0..0, Spanned::span);
            let remedy = "write the 64 hexadecimal digits that `sha256sum FILE` prints";
            section.mistakes.add(span, "`sha256` is not a SHA-256 checksum", remedy);
        }
        well_formed
    });
    let check = launch(&inner, "check").map(|placed| places.keep_launch(placed));
    let product = Product {
        file: places.keep(inner.template("file"))?,
        at_least: inner.quantity("at_least", parse_size),
        sha256,
        check,
    };
    Some((product, inner.share("same_picture", "2%")))
}
