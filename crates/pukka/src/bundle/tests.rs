use std::io::{Cursor, Write as _};

use pukka_core::record::session::examples::mono_1100;
use pukka_store::transfer::Outgoing;
use zip::ZipWriter;
use zip::write::SimpleFileOptions;

use super::*;

fn outgoing() -> Outgoing {
    Outgoing { file: mono_1100(), ramps: Vec::new(), settled: None }
}

fn written(amplifiers: usize) -> Vec<u8> {
    let mut zip = ShelfWriter::new(Cursor::new(Vec::new()), "2026-11-26T12:00:00Z");
    for _ in 0..amplifiers {
        zip.add(&outgoing(), [(captioned("front"), Ok(b"not looked at here".to_vec()))], []).unwrap();
    }
    zip.finish().unwrap().0.into_inner()
}

fn zipped(files: &[(&str, &[u8])]) -> Vec<u8> {
    let mut zip = ZipWriter::new(Cursor::new(Vec::new()));
    for (name, bytes) in files {
        zip.start_file(*name, SimpleFileOptions::default()).unwrap();
        zip.write_all(bytes).unwrap();
    }
    zip.finish().unwrap().into_inner()
}

fn session() -> Vec<u8> {
    serde_json::to_vec(&mono_1100()).unwrap()
}

fn open(bytes: &[u8]) -> Result<Bundle, BundleError> {
    let mut file = tempfile::NamedTempFile::new().unwrap();
    file.write_all(bytes).unwrap();
    super::open(file.path())
}

/// All of it, as a preview and an import read it.
fn read(bytes: &[u8]) -> Result<Vec<Arriving>, BundleError> {
    let mut bundle = open(bytes)?;
    (0..bundle.len()).map(|i| bundle.amplifier(i)).collect()
}

fn captioned(caption: &str) -> PhotoWords {
    PhotoWords { caption: caption.into(), ..PhotoWords::default() }
}

#[test]
fn a_shelf_reads_back_and_two_alike_have_two_folders() {
    let bytes = written(2);
    assert_eq!(bytes, written(2), "the same bytes for the same shelf");
    let mut bundle = open(&bytes).unwrap();
    let amplifiers: Vec<Arriving> = (0..bundle.len()).map(|i| bundle.amplifier(i).unwrap()).collect();
    let folders: Vec<&str> = amplifiers.iter().map(|one| one.folder.as_str()).collect();
    assert_eq!(folders, ["tolland-pike-mono-1100", "tolland-pike-mono-1100--2"]);
    assert_eq!(amplifiers[1].session.as_ref().unwrap().session, mono_1100());
    assert_eq!(amplifiers[0].photos[0].words.caption, "front");
    assert_eq!(bundle.photo(&amplifiers[0].photos[0]).unwrap(), b"not looked at here");
    assert!(bundle.not_known.is_empty() && amplifiers[0].left_out.is_empty());
    assert!(matches!(open(&written(0)), Err(BundleError::Empty)), "an empty shelf is a zip without an amplifier");
}

#[test]
fn the_order_of_the_shelf_comes_along() {
    let manifest = br#"{"format":"pukka-shelf","version":1,"exported_at":"","folders":["zeta","alpha"]}"#;
    let all = read(&zipped(&[("alpha/session.json", &session()), ("zeta/session.json", &session()), ("shelf.json", manifest)])).unwrap();
    assert_eq!(all.iter().map(|one| one.folder.as_str()).collect::<Vec<_>>(), ["zeta", "alpha"]);
}

#[test]
fn a_photo_that_cannot_be_read_is_named_and_the_rest_goes_on() {
    let mut zip = ShelfWriter::new(Cursor::new(Vec::new()), "2026-11-26T12:00:00Z");
    zip.add(&outgoing(), [(captioned("front"), Err("The file is gone.".into())), (captioned("back"), Ok(vec![1, 2, 3]))], []).unwrap();
    let (out, left_out) = zip.finish().unwrap();
    assert_eq!(left_out, 1);
    let bytes = out.into_inner();
    let all = read(&bytes).unwrap();
    assert_eq!((all[0].photos.len(), all[0].photos[0].words.caption.as_str()), (1, "back"));
    let mut zip = zip::ZipArchive::new(Cursor::new(bytes)).unwrap();
    let text = std::io::read_to_string(zip.by_name(LEFT_OUT).unwrap()).unwrap();
    assert!(text.contains("tolland-pike-mono-1100/photos/01.jpg: The file is gone."), "{text}");
}

#[test]
fn names_that_climb_refuse_the_whole_zip() {
    for name in
        ["../evil/session.json", "a/../../session.json", "/etc/session.json", "a\\..\\session.json", "c:/session.json", "a/./session.json"]
    {
        let refused = open(&zipped(&[("good/session.json", &session()), (name, b"{}")]));
        assert!(matches!(refused, Err(BundleError::Climbs(_))), "{name}");
    }
}

#[test]
fn the_same_name_twice_refuses_the_whole_zip() {
    let mut bytes = zipped(&[("good/session.json", &session()), ("goof/session.json", b"{}")]);
    // No writer makes one: the second name is made like the first, in both places it stands.
    let places: Vec<usize> = bytes.windows(5).enumerate().filter(|(_, five)| five == b"goof/").map(|(at, _)| at).collect();
    assert_eq!(places.len(), 2);
    for at in places {
        bytes[at + 3] = b'd';
    }
    let refused = open(&bytes);
    assert!(matches!(&refused, Err(BundleError::Twice(name)) if name == "good/session.json"), "{:?}", refused.err());
}

#[test]
fn a_bomb_is_not_unpacked() {
    let flat = vec![b' '; usize::try_from(MOST_JSON).unwrap() + 1];
    let bomb = zipped(&[("a/session.json", &flat)]);
    assert!(bomb.len() < 100_000, "{} bytes would become {}", bomb.len(), flat.len());
    assert!(matches!(read(&bomb), Err(BundleError::TooLarge { .. })));
    let photo = vec![0u8; 20 * 1024 * 1024];
    let names: Vec<String> = (0..30).map(|i| format!("a/photos/{i:02}.jpg")).collect();
    let many: Vec<(&str, &[u8])> = names.iter().map(|name| (name.as_str(), photo.as_slice())).collect();
    let refused = open(&zipped(&many)).unwrap_err();
    assert!(refused.to_string().starts_with("The zip unpacks to more than 512 MB"), "{refused}");
}

#[test]
fn what_is_wrong_with_one_amplifier_is_said_of_that_one() {
    let bytes = zipped(&[
        ("good/session.json", &session()),
        ("good/settled.json", b"{\"at\": 3}"),
        ("good/photos.json", b"[{\"file\": \"photos/9.jpg\"}]"),
        ("good/readme.txt", b"hello"),
        ("bad/session.json", b"{\"format\": \"pukka-session\"}"),
        ("empty/note.txt", b""),
        ("benches.json", b"[{\"name\": 3}]"),
    ]);
    let bundle = open(&bytes).unwrap();
    assert_eq!(bundle.not_known, ["empty/note.txt"]);
    assert_eq!(bundle.left_out[0].path, "benches.json");
    let amplifiers = read(&bytes).unwrap();
    assert_eq!(amplifiers.len(), 2);
    let (bad, good) = (&amplifiers[0], &amplifiers[1]);
    assert_eq!(bad.session.as_ref().unwrap_err()[0].says, "version is missing.");
    assert!(good.session.is_ok());
    let left_out: Vec<&str> = good.left_out.iter().map(|problem| problem.path.as_str()).collect();
    assert_eq!(left_out, ["settled.json", "photos/9.jpg"]);
    assert_eq!(good.not_known, ["good/readme.txt"]);
}

#[test]
fn other_files_are_named_for_what_they_are_not() {
    assert!(matches!(open(b"id,watts\n1,2"), Err(BundleError::OtherKind)));
    assert!(matches!(open(b""), Err(BundleError::OtherKind)));
    assert!(matches!(open(b"PK\x03\x04 and no more"), Err(BundleError::Damaged(_))));
    assert!(matches!(open(&zipped(&[("a.txt", b"x")])), Err(BundleError::Empty)));
    assert!(matches!(
        open(&zipped(&[("shelf.json", b"{\"format\":\"x\",\"version\":1,\"exported_at\":\"\",\"folders\":[]}")])),
        Err(BundleError::Damaged(_))
    ));
    let json = read(b"\xef\xbb\xbf {}").unwrap();
    assert!(json[0].session.is_err());
}
