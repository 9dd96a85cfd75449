use super::*;
use crate::kernel::units::Level;

#[test]
fn the_generic_profile_serves_every_task() {
    for role in Role::ALL {
        let profile = Profile::read(GENERIC, role).unwrap();
        let wanted = role.reads().iter().filter(|quantity| **quantity != Quantity::OutputV);
        assert!(wanted.clone().all(|quantity| profile.reading(*quantity).is_some()), "{role:?}");
    }
    let generator = Profile::read(GENERIC, Role::Generator).unwrap().generator.unwrap();
    assert_eq!(generator.level_line(Level::new(-12.5).unwrap(), 40.0), "LEV -12.5");
    assert!(!generator.prepare.join(" ").contains("OUTP ON"), "the output goes on after arming only");
}

#[test]
fn every_shipped_profile_reads_and_serves_something() {
    for shipped in SHIPPED {
        let profile = Profile::parse(shipped.text).unwrap_or_else(|problems| panic!("{}: {problems:?}", shipped.file));
        assert!(!profile.serves().is_empty(), "{}", shipped.file);
    }
    let generator = Profile::parse(SHIPPED[3].text).unwrap().generator.unwrap();
    assert_eq!(generator.level_line(Level::new(-20.0).unwrap(), 40.0), "VOLT 0.2", "2 V at 0 dB");
}

#[test]
fn what_is_wrong_with_a_profile_is_said_with_its_line() {
    let first = |text: &str, role| Profile::read(text, role).unwrap_err().remove(0);
    assert_eq!(first("name = \"x\"\nsettle_ms = \"soon\"\n", Role::Voltmeter).path, "line 2");
    assert_eq!(first("name = \"x\"\n[read.colour]\nquery = \"?\"\n", Role::Voltmeter).path, "line 2: read.colour");
    assert!(first("name = \"x\"\n", Role::Voltmeter).says.contains("read.supply_v"));
    assert!(first("name = \"x\"\n", Role::Generator).says.contains("{level}"));
    assert_eq!(first("name = \"x\"\n[read.supply_v]\nquery = \"V?\"\nscale = 0.0\n", Role::Voltmeter).path, "line 4: read.supply_v.scale");
    assert_eq!(first("name = \"x\"\ncolour = 1\n", Role::Ammeter).path, "line 2");
    let reading = |line: &str| format!("name = \"x\"\n[read.supply_v]\nquery = \"V?\"\n{line}\n");
    for (line, path) in [
        ("unit = \"bar\"", "line 4: read.supply_v.unit"),
        ("field = 0", "line 4: read.supply_v.field"),
        ("pattern = '([0-9'", "line 4: read.supply_v.pattern"),
        ("pattern = '[0-9]+'", "line 4: read.supply_v.pattern"),
        ("least = 5\nmost = 2", "line 5: read.supply_v.most"),
    ] {
        assert_eq!(first(&reading(line), Role::Voltmeter).path, path, "{line}");
    }
    let playing = |line: &str| format!("name = \"x\"\n[generator]\nzero = [\"Z\"]\nprepare = []\nlevel = \"L {{level}}\"\n{line}\n");
    assert!(Profile::read(&playing(""), Role::Generator).is_ok());
    for (line, path) in
        [("limit = \"TIME\"", "generator.limit"), ("read_level = \"L\"", "generator.read_level"), ("full_v = 0", "generator.full_v")]
    {
        assert!(first(&playing(line), Role::Generator).path.ends_with(path), "{line}");
    }
    assert!(first(&playing("unit = \"dBx\""), Role::Generator).path.starts_with("line 6"));
}
