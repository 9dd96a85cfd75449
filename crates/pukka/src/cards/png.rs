//! A drawing as PNG, with the shipped faces and no others.

use std::sync::{Arc, LazyLock};

use pukka_core::kernel::format::escaped;
use resvg::tiny_skia::{Pixmap, Transform};
use resvg::usvg::{Options, Tree, WriteOptions, fontdb};

use super::face;

static FACES: LazyLock<Arc<fontdb::Database>> = LazyLock::new(|| {
    let mut faces = fontdb::Database::new();
    for file in face::FILES {
        faces.load_font_data(file.to_vec());
    }
    Arc::new(faces)
});

fn read(svg: &str) -> anyhow::Result<Tree> {
    let options = Options { fontdb: Arc::clone(&FACES), font_family: "Archivo".into(), ..Options::default() };
    Ok(Tree::from_str(svg, &options)?)
}

/// A drawing whose letters are outlines: it looks the same where the faces are not installed. Its words are in its title.
///
/// # Errors
/// When the drawing does not read.
pub fn outlined(card: &super::Card) -> anyhow::Result<String> {
    let drawn = read(&card.svg)?.to_string(&WriteOptions { preserve_text: false, ..WriteOptions::default() });
    let (head, rest) = drawn.split_once('>').ok_or_else(|| anyhow::anyhow!("the drawing is empty"))?;
    let alt = escaped(&card.alt);
    Ok(format!("{head} role=\"img\">\n<title>{alt}</title>{rest}"))
}

/// Makes a PNG of a drawing.
///
/// # Errors
/// When the drawing does not read, or is too large to be held.
pub fn png(svg: &str) -> anyhow::Result<Vec<u8>> {
    let tree = read(svg)?;
    let size = tree.size().to_int_size();
    let mut pixels = Pixmap::new(size.width(), size.height()).ok_or_else(|| anyhow::anyhow!("the card is too large"))?;
    resvg::render(&tree, Transform::identity(), &mut pixels.as_mut());
    encoded(&pixels)
}

/// Fast rather than small: at 2160 lines a small one takes most of the time.
fn encoded(pixels: &Pixmap) -> anyhow::Result<Vec<u8>> {
    let mut bytes = Vec::new();
    let mut encoder = png::Encoder::new(&mut bytes, pixels.width(), pixels.height());
    encoder.set_color(png::ColorType::Rgba);
    encoder.set_depth(png::BitDepth::Eight);
    encoder.set_compression(png::Compression::Fast);
    let straight: Vec<u8> = pixels
        .pixels()
        .iter()
        .flat_map(|pixel| {
            let colour = pixel.demultiply();
            [colour.red(), colour.green(), colour.blue(), colour.alpha()]
        })
        .collect();
    encoder.write_header()?.write_image_data(&straight)?;
    Ok(bytes)
}
