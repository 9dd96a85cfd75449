use std::io::{Cursor, Write as _};

use pukka_core::record::session::examples::mono_1100;
use pukka_store::transfer::Outgoing;
use zip::ZipWriter;
use zip::write::SimpleFileOptions;

use super::*;

fn folder() -> Folder {
    let outgoing = Outgoing { file: mono_1100(), ramps: Vec::new(), settled: None };
    Folder { outgoing, photos: vec![BundledPhoto { caption: "front".into(), bytes: b"not looked at here".to_vec() }] }
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

#[test]
fn a_shelf_reads_back_and_two_alike_have_two_folders() {
    let bytes = write(&[folder(), folder()], "2026-11-26T12:00:00Z").unwrap();
    assert_eq!(bytes, write(&[folder(), folder()], "2026-11-26T12:00:00Z").unwrap(), "the same bytes for the same shelf");
    let bundle = read(&bytes).unwrap();
    let folders: Vec<&str> = bundle.amplifiers.iter().map(|one| one.folder.as_str()).collect();
    assert_eq!(folders, ["tolland-pike-mono-1100", "tolland-pike-mono-1100--2"]);
    assert_eq!(bundle.amplifiers[1].session.as_ref().unwrap().session, mono_1100());
    assert_eq!(bundle.amplifiers[0].photos, folder().photos);
    assert!(bundle.not_known.is_empty() && bundle.amplifiers[0].left_out.is_empty());
    assert!(
        matches!(read(&write(&[], "2026-11-26T12:00:00Z").unwrap()), Err(BundleError::Empty)),
        "an empty shelf is a zip without an amplifier"
    );
}

#[test]
fn names_that_climb_refuse_the_whole_zip() {
    for name in
        ["../evil/session.json", "a/../../session.json", "/etc/session.json", "a\\..\\session.json", "c:/session.json", "a/./session.json"]
    {
        let refused = read(&zipped(&[("good/session.json", &session()), (name, b"{}")]));
        assert!(matches!(refused, Err(BundleError::Climbs(_))), "{name}: {refused:?}");
    }
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
    let refused = read(&zipped(&many)).unwrap_err();
    assert!(refused.to_string().starts_with("The zip unpacks to more than 512 MB"), "{refused}");
}

#[test]
fn what_is_wrong_with_one_amplifier_is_said_of_that_one() {
    let bundle = read(&zipped(&[
        ("good/session.json", &session()),
        ("good/settled.json", b"{\"at\": 3}"),
        ("good/photos.json", b"[{\"file\": \"photos/9.jpg\"}]"),
        ("good/readme.txt", b"hello"),
        ("bad/session.json", b"{\"format\": \"pukka-session\"}"),
        ("empty/note.txt", b""),
    ]))
    .unwrap();
    assert_eq!(bundle.amplifiers.len(), 2);
    let (bad, good) = (&bundle.amplifiers[0], &bundle.amplifiers[1]);
    assert_eq!(bad.session.as_ref().unwrap_err()[0].says, "version is missing.");
    assert!(good.session.is_ok());
    let left_out: Vec<&str> = good.left_out.iter().map(|problem| problem.path.as_str()).collect();
    assert_eq!(left_out, ["settled.json", "photos/9.jpg"]);
    assert_eq!(bundle.not_known, ["empty/note.txt", "good/readme.txt"]);
}

#[test]
fn other_files_are_named_for_what_they_are_not() {
    assert!(matches!(read(b"id,watts\n1,2"), Err(BundleError::OtherKind)));
    assert!(matches!(read(b""), Err(BundleError::OtherKind)));
    assert!(matches!(read(b"PK\x03\x04 and no more"), Err(BundleError::Damaged(_))));
    assert!(matches!(read(&zipped(&[("a.txt", b"x")])), Err(BundleError::Empty)));
    assert!(matches!(
        read(&zipped(&[("shelf.json", b"{\"format\":\"x\",\"version\":1,\"exported_at\":\"\",\"folders\":[]}")])),
        Err(BundleError::Damaged(_))
    ));
    let json = read(b"\xef\xbb\xbf {}").unwrap();
    assert!(json.amplifiers[0].session.is_err());
}
