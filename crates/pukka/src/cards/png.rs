//! A drawing as PNG, with the shipped faces and no others.

use std::sync::{Arc, LazyLock};

use resvg::tiny_skia::{Pixmap, Transform};
use resvg::usvg::{Options, Tree, fontdb};

use super::face;

static FACES: LazyLock<Arc<fontdb::Database>> = LazyLock::new(|| {
    let mut faces = fontdb::Database::new();
    for file in face::FILES {
        faces.load_font_data(file.to_vec());
    }
    Arc::new(faces)
});

/// Makes a PNG of a drawing.
///
/// # Errors
/// When the drawing does not read, or is too large to be held.
pub fn png(svg: &str) -> anyhow::Result<Vec<u8>> {
    let options = Options { fontdb: Arc::clone(&FACES), font_family: "Archivo".into(), ..Options::default() };
    let tree = Tree::from_str(svg, &options)?;
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
