//! Photos that the sheet shows: chosen ones, small enough for a page, with their marks.

use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use maud::{Markup, html};
use pukka_core::record::amplifier::PhotoWords;
use pukka_core::record::session::Session;
use pukka_store::Files;
use pukka_store::photos::Photo;

use crate::draw::marks::marks;
use crate::photo::smaller;

/// Longest side of a photo on a sheet, pixels: sharp on paper at the width of a column.
const SIDE_PX: u32 = 1_200;

/// A photo on a sheet.
#[derive(Debug, Clone)]
pub struct SheetPhoto {
    /// As JPEG, with nothing but its picture in it.
    pub jpeg: Vec<u8>,
    width_px: u32,
    height_px: u32,
    words: PhotoWords,
    /// Place of the run it was taken in.
    taken_in: Option<String>,
}

/// Photos that are chosen for the sheet. A file that is gone or damaged is left out: the sheet stands without it.
#[must_use]
pub fn chosen(files: &Files, photos: impl IntoIterator<Item = Photo>, session: &Session) -> Vec<SheetPhoto> {
    let one = |photo: Photo| {
        let bytes = files.photo(&photo.sha256).ok()?;
        let small = smaller(&bytes, SIDE_PX).ok()?;
        let words = photo.words;
        let run = words.run_id.as_deref().and_then(|id| session.run(id));
        let taken_in = run.map(|run| run.place_words());
        Some(SheetPhoto { jpeg: small.jpeg, width_px: small.width_px, height_px: small.height_px, words, taken_in })
    };
    photos.into_iter().filter(|photo| photo.words.on_sheet).filter_map(one).collect()
}

fn caption(photo: &SheetPhoto) -> String {
    let parts = [Some(photo.words.caption.clone()).filter(|caption| !caption.is_empty()), photo.taken_in.clone()];
    parts.into_iter().flatten().collect::<Vec<_>>().join(" · ")
}

/// The photos, two beside one another.
pub(super) fn figures(photos: &[SheetPhoto]) -> Markup {
    html! {
        @if !photos.is_empty() {
            section class="photos" {
                @for photo in photos {
                    figure {
                        div {
                            img alt=(caption(photo)) width=(photo.width_px) height=(photo.height_px)
                                src={ "data:image/jpeg;base64," (STANDARD.encode(&photo.jpeg)) };
                            (marks(&photo.words.marks, photo.width_px, photo.height_px))
                        }
                        figcaption { (caption(photo)) }
                    }
                }
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use image::{DynamicImage, ImageFormat};
    use pukka_core::record::session::examples::mono_1100;
    use serde_json::json;

    use super::*;

    #[test]
    fn only_chosen_ones_come_small_with_their_place_and_marks() {
        let folder = tempfile::tempdir().unwrap();
        let files = Files::in_folder(folder.path());
        std::fs::create_dir_all(folder.path().join("photos")).unwrap();
        let mut jpeg = std::io::Cursor::new(Vec::new());
        DynamicImage::new_rgb8(2_000, 1_000).write_to(&mut jpeg, ImageFormat::Jpeg).unwrap();
        let sha256 = files.keep_photo(&jpeg.into_inner()).unwrap();
        let photo = |with: serde_json::Value| {
            let mut value = json!({ "sha256": sha256, "width_px": 2_000, "height_px": 1_000, "bytes": 9, "caption": "Rails <b>" });
            value.as_object_mut().unwrap().extend(with.as_object().unwrap().clone());
            serde_json::from_value::<Photo>(value).unwrap()
        };
        let session = mono_1100();
        let ring = json!({ "shape": "ring", "x": 0.5, "y": 0.5, "to_x": 0.6, "to_y": 0.5, "label": "A" });
        let all = [
            photo(json!({})),
            photo(json!({ "on_sheet": true, "run_id": session.runs[0].id, "marks": [ring] })),
            photo(json!({ "on_sheet": true, "sha256": "0".repeat(64) })),
        ];
        let shown = chosen(&files, all, &session);
        assert_eq!(shown.len(), 1, "one is not chosen, and of one the file is gone");
        assert_eq!((shown[0].width_px, shown[0].height_px), (1_200, 600));
        let html = figures(&shown).into_string();
        assert!(html.contains("Rails &lt;b&gt; · 4\u{202f}Ω, certified") && html.contains("viewBox=\"0 0 1200 600\""), "{html:.300}");
    }
}
