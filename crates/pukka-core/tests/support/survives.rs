// Of the tests and of the fuzzer, which include it.

/// Judges a session that was read, puts it on a sheet, writes it and reads it again.
///
/// # Panics
/// When it does not survive that.
fn survives(session: &pukka_core::record::session::Session) {
    use pukka_core::record::session::SessionFile;
    let judgement = pukka_core::assess::judge(session);
    assert_eq!(judgement.claims.len(), session.claims.len(), "a verdict a claim");
    assert!(judgement.tested <= judgement.claims_in_use, "no more tested than there are");
    let _ = pukka_core::report::sheet::sheet(session);
    let _ = pukka_core::assess::wrong::suspicion(session, &judgement.checks);
    let _ = pukka_core::plan::view::report(session);
    let written = session.to_file().and_then(|file| serde_json::to_vec(&file));
    let Ok(written) = written else { unreachable!("a session that was read cannot be written") };
    match SessionFile::read(&written) {
        Ok(again) => assert_eq!(&again.session, session, "read again it is another"),
        Err(problems) => unreachable!("what was written is refused: {problems:?}"),
    }
}
