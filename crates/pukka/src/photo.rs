//! A photo as it may be kept: decoded, turned upright, made small enough, and encoded again. Nothing of the file that was sent
//! is kept but its picture: a bad file cannot get in, and neither can the place where it was taken.

use std::io::Cursor;

use image::codecs::jpeg::JpegEncoder;
use image::{DynamicImage, ImageDecoder, ImageFormat, ImageReader, Limits, Rgb, RgbImage};
use pukka_core::record::amplifier::PhotoWords;
use pukka_store::photos::Photo;
use pukka_store::{Store, StoreError};
use thiserror::Error;

/// The largest file that is read.
pub const MOST_BYTES: usize = 24 * 1024 * 1024;
/// The longest side of what is read, and of what is kept.
const MOST_SIDE_READ: u32 = 12_000;
const MOST_SIDE_KEPT: u32 = 2_400;
/// Memory a picture may take while it is decoded.
const MOST_MEMORY: u64 = 400 * 1024 * 1024;
const QUALITY: u8 = 86;

/// Reason why a file is not kept.
#[derive(Debug, Error)]
pub enum PhotoError {
    /// Another kind of file.
    #[error("That is not a photo that can be kept: send JPEG, PNG or WebP.")]
    OtherKind,
    /// Larger than is read.
    #[error("That photo is too large: at most {} MB and {MOST_SIDE_READ} pixels a side.", MOST_BYTES / 1024 / 1024)]
    TooLarge,
    /// Does not decode.
    #[error("That photo cannot be read to its end: {0}")]
    Damaged(String),
}

/// A photo, encoded again.
#[derive(Debug)]
pub struct EncodedPhoto {
    /// As JPEG.
    pub jpeg: Vec<u8>,
    /// Width.
    pub width_px: u32,
    /// Height.
    pub height_px: u32,
}

impl EncodedPhoto {
    /// Keeps its file in its place, and gives the record that names it.
    ///
    /// # Errors
    /// When the disk does not take it.
    pub fn keep(&self, store: &Store) -> Result<Photo, StoreError> {
        let sha256 = store.files().keep_photo(&self.jpeg)?;
        let (width_px, height_px, bytes) = (self.width_px, self.height_px, self.jpeg.len() as u64);
        Ok(Photo { sha256, width_px, height_px, bytes, words: PhotoWords::default() })
    }
}

/// A photo that was encoded here before, as it is: it decodes, and carries nothing but its picture. Encoding it once more would
/// only cost sharpness.
///
/// # Errors
/// [`PhotoError`].
pub fn as_it_is_or_anew(bytes: &[u8]) -> Result<EncodedPhoto, PhotoError> {
    let anew = encode_anew(bytes)?;
    let kept = only_picture(bytes) && anew.width_px.max(anew.height_px) <= MOST_SIDE_KEPT;
    Ok(if kept { EncodedPhoto { jpeg: bytes.to_vec(), ..anew } } else { anew })
}

/// Whether a JPEG has no segment but JFIF's own that could hold anything but the picture, and nothing behind it.
///
/// Ref: ITU-T T.81, B.1.1.3: markers; APPn is FFE0 to FFEF, a comment FFFE, the scan FFDA, the end FFD9.
fn only_picture(bytes: &[u8]) -> bool {
    if !bytes.starts_with(&[0xFF, 0xD8]) || !bytes.ends_with(&[0xFF, 0xD9]) {
        return false;
    }
    let mut at = 2;
    while let Some([0xFF, marker, high, low]) = bytes.get(at..at + 4) {
        match marker {
            0xDA => return true,
            0xE1..=0xEF | 0xFE => return false,
            _ => at += 2 + usize::from(u16::from_be_bytes([*high, *low])),
        }
    }
    false
}

/// Decodes a photo and encodes it again. Blocks for as long as that takes.
///
/// # Errors
/// [`PhotoError`].
pub fn encode_anew(bytes: &[u8]) -> Result<EncodedPhoto, PhotoError> {
    smaller(bytes, MOST_SIDE_KEPT)
}

/// Likewise, its longer side no more pixels than `side_px`.
///
/// # Errors
/// [`PhotoError`].
pub fn smaller(bytes: &[u8], side_px: u32) -> Result<EncodedPhoto, PhotoError> {
    let mut picture = decoded(bytes)?;
    if picture.width().max(picture.height()) > side_px {
        picture = picture.resize(side_px, side_px, image::imageops::FilterType::Triangle);
    }
    let flat = on_white(&picture);
    let mut jpeg = Vec::new();
    JpegEncoder::new_with_quality(&mut jpeg, QUALITY).encode_image(&flat).map_err(trouble)?;
    Ok(EncodedPhoto { jpeg, width_px: flat.width(), height_px: flat.height() })
}

/// The picture, upright.
fn decoded(bytes: &[u8]) -> Result<DynamicImage, PhotoError> {
    if bytes.len() > MOST_BYTES {
        return Err(PhotoError::TooLarge);
    }
    let format = image::guess_format(bytes).map_err(|_| PhotoError::OtherKind)?;
    if !matches!(format, ImageFormat::Jpeg | ImageFormat::Png | ImageFormat::WebP) {
        return Err(PhotoError::OtherKind);
    }
    let mut reader = ImageReader::with_format(Cursor::new(bytes), format);
    let mut limits = Limits::default();
    limits.max_image_width = Some(MOST_SIDE_READ);
    limits.max_image_height = Some(MOST_SIDE_READ);
    limits.max_alloc = Some(MOST_MEMORY);
    reader.limits(limits);
    let mut decoder = reader.into_decoder().map_err(trouble)?;
    let orientation = decoder.orientation().map_err(trouble)?;
    let mut picture = DynamicImage::from_decoder(decoder).map_err(trouble)?;
    picture.apply_orientation(orientation);
    Ok(picture)
}

/// Longest side of a mark, pixels: it stands in a corner of a card of 2160 lines.
const MARK_SIDE: u32 = 320;

/// A mark for cards, as PNG with what is transparent in it, and nothing of the file that was sent but its picture.
///
/// # Errors
/// [`PhotoError`].
pub fn as_mark(bytes: &[u8]) -> Result<Vec<u8>, PhotoError> {
    let mut picture = decoded(bytes)?;
    if picture.width().max(picture.height()) > MARK_SIDE {
        picture = picture.resize(MARK_SIDE, MARK_SIDE, image::imageops::FilterType::Lanczos3);
    }
    let mut png = Cursor::new(Vec::new());
    DynamicImage::ImageRgba8(picture.to_rgba8()).write_to(&mut png, ImageFormat::Png).map_err(trouble)?;
    Ok(png.into_inner())
}

fn trouble(error: image::ImageError) -> PhotoError {
    match error {
        image::ImageError::Limits(_) => PhotoError::TooLarge,
        other => PhotoError::Damaged(other.to_string()),
    }
}

/// Puts white behind what is transparent, not the black that a dropped alpha channel leaves.
fn on_white(picture: &DynamicImage) -> RgbImage {
    let rgba = picture.to_rgba8();
    RgbImage::from_fn(rgba.width(), rgba.height(), |x, y| {
        let [r, g, b, a] = rgba.get_pixel(x, y).0;
        let over = |channel: u8| ((u16::from(channel) * u16::from(a) + 255 * (255 - u16::from(a))) / 255) as u8;
        Rgb([over(r), over(g), over(b)])
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    fn encoded(picture: &DynamicImage, format: ImageFormat) -> Vec<u8> {
        let mut bytes = Cursor::new(Vec::new());
        picture.write_to(&mut bytes, format).unwrap();
        bytes.into_inner()
    }

    /// A JPEG with an EXIF block: lying on its side (orientation 6), and a maker's note as text.
    fn with_exif(jpeg: &[u8]) -> Vec<u8> {
        let mut exif = b"Exif\0\0II*\0\x08\0\0\0\x01\0\x12\x01\x03\0\x01\0\0\0\x06\0\0\0\0\0\0\0".to_vec();
        exif.extend(b"GPS 51.5N 0.1W");
        let length = u16::try_from(exif.len() + 2).unwrap().to_be_bytes();
        [&jpeg[..2], &[0xFF, 0xE1], &length, &exif, &jpeg[2..]].concat()
    }

    #[test]
    fn all_three_kinds_come_out_as_jpeg() {
        let picture = DynamicImage::new_rgba8(40, 30);
        for format in [ImageFormat::Png, ImageFormat::WebP] {
            let kept = encode_anew(&encoded(&picture, format)).unwrap();
            assert_eq!((kept.width_px, kept.height_px, image::guess_format(&kept.jpeg).unwrap()), (40, 30, ImageFormat::Jpeg));
            let back = image::load_from_memory(&kept.jpeg).unwrap().to_rgb8();
            assert!(back.get_pixel(5, 5).0.iter().all(|channel| *channel > 250), "clear becomes white");
        }
    }

    #[test]
    fn it_is_turned_upright_and_what_was_written_into_it_is_gone() {
        let sent = with_exif(&encoded(&DynamicImage::new_rgb8(40, 30), ImageFormat::Jpeg));
        assert!(sent.windows(3).any(|bytes| bytes == b"GPS"));
        let kept = encode_anew(&sent).unwrap();
        assert_eq!((kept.width_px, kept.height_px), (30, 40));
        assert!(!kept.jpeg.windows(4).any(|bytes| bytes == b"Exif") && !kept.jpeg.windows(3).any(|bytes| bytes == b"GPS"));
    }

    #[test]
    fn one_that_was_kept_before_stays_as_it_is_and_another_does_not() {
        let kept = encode_anew(&encoded(&DynamicImage::new_rgb8(40, 30), ImageFormat::Jpeg)).unwrap().jpeg;
        assert_eq!(as_it_is_or_anew(&kept).unwrap().jpeg, kept);
        let told = with_exif(&kept);
        assert!(!as_it_is_or_anew(&told).unwrap().jpeg.windows(3).any(|bytes| bytes == b"GPS"));
        let trailed = [kept.as_slice(), b"more"].concat();
        assert_ne!(as_it_is_or_anew(&trailed).unwrap().jpeg, trailed);
    }

    #[test]
    fn large_ones_are_made_small_and_huge_ones_refused() {
        let kept = encode_anew(&encoded(&DynamicImage::new_luma8(5_000, 2_500), ImageFormat::Png)).unwrap();
        assert_eq!((kept.width_px, kept.height_px), (2_400, 1_200));
        let wide = encoded(&DynamicImage::new_luma8(12_001, 2), ImageFormat::Png);
        assert!(matches!(encode_anew(&wide), Err(PhotoError::TooLarge)));
        assert!(matches!(encode_anew(&vec![0; MOST_BYTES + 1]), Err(PhotoError::TooLarge)));
    }

    #[test]
    fn what_is_no_photo_is_refused() {
        assert!(matches!(encode_anew(b"<svg xmlns='http://www.w3.org/2000/svg'/>"), Err(PhotoError::OtherKind)));
        assert!(matches!(encode_anew(b"GIF89a"), Err(PhotoError::OtherKind)));
        assert!(matches!(encode_anew(b""), Err(PhotoError::OtherKind)));
        let jpeg = encoded(&DynamicImage::new_rgb8(40, 30), ImageFormat::Jpeg);
        assert!(matches!(encode_anew(&jpeg[..20]), Err(PhotoError::Damaged(_))));
        assert!(matches!(encode_anew(&[b"\x89PNG\r\n\x1a\n".as_slice(), b"rubbish"].concat()), Err(PhotoError::Damaged(_))));
    }
}
