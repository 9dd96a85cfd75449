//! The stand-in bench as an ordinary SCPI client has it: over TCP, a line each way.

#![allow(clippy::unwrap_used, reason = "a test that cannot set itself up has failed")]

use std::io::{BufRead, BufReader, Read, Write};
use std::net::{SocketAddr, TcpStream};
use std::time::Duration;

use pukka_sim::bench::Bench;
use pukka_sim::character::{ALL, find};
use pukka_sim::scpi::Role;
use pukka_sim::serve::{Ports, Running, listen};
use pukka_sim::supply::SupplyKind;

struct Client {
    read: BufReader<TcpStream>,
    write: TcpStream,
}

impl Client {
    fn to(address: SocketAddr) -> Self {
        let stream = TcpStream::connect(address).unwrap();
        stream.set_read_timeout(Some(Duration::from_secs(2))).unwrap();
        Self { read: BufReader::new(stream.try_clone().unwrap()), write: stream }
    }

    fn tell(&mut self, line: &str) {
        writeln!(self.write, "{line}").unwrap();
    }

    fn ask(&mut self, line: &str) -> String {
        self.tell(line);
        let mut answer = String::new();
        self.read.read_line(&mut answer).unwrap();
        assert!(answer.ends_with('\n'), "{line}: {answer:?}");
        answer.trim_end().to_owned()
    }

    fn number(&mut self, line: &str) -> f64 {
        self.ask(line).parse().unwrap()
    }

    /// Nothing comes.
    fn is_silent(&mut self, line: &str) -> bool {
        self.tell(line);
        self.write.set_read_timeout(Some(Duration::from_millis(300))).unwrap();
        let mut one = [0u8];
        matches!(self.read.read(&mut one), Err(error) if matches!(error.kind(), std::io::ErrorKind::WouldBlock | std::io::ErrorKind::TimedOut))
    }
}

/// A bench that stands still but for what it is told to step.
async fn still(key: &str) -> Ports {
    let bench = Bench::with(9, find(key).unwrap(), SupplyKind::bank(), 4.0);
    listen(Running::new(bench, 1e-9), 0).await.unwrap()
}

#[tokio::test(flavor = "multi_thread")]
async fn its_recording_comes_as_a_block_of_definite_length() {
    let ports = still("honest").await;
    let (mut generator, mut bench) = (Client::to(ports.of(Role::Generator)), Client::to(ports.of(Role::Bench)));
    generator.tell("LEV -8;:OUTP ON");
    assert_eq!(bench.ask("SIM:STEP 500;STAT?"), "ON");
    bench.tell("SIM:CAPT? 100");
    let mut head = [0u8; 2];
    bench.read.read_exact(&mut head).unwrap();
    assert_eq!(head[0], b'#');
    let mut digits = vec![0u8; usize::from(head[1] - b'0')];
    bench.read.read_exact(&mut digits).unwrap();
    let mut wav = vec![0u8; std::str::from_utf8(&digits).unwrap().parse().unwrap()];
    bench.read.read_exact(&mut wav).unwrap();
    let mut end = [0u8];
    bench.read.read_exact(&mut end).unwrap();
    assert_eq!(end, *b"\n");
    // 100 ms at 96 kHz: an output, supply volts, supply amps.
    let reader = hound::WavReader::new(std::io::Cursor::new(wav)).unwrap();
    assert_eq!((reader.spec().channels, reader.spec().sample_rate, reader.duration()), (3, 96_000, 9_600));
    assert_eq!(bench.ask("*CLS;SIM:CAPT? 99999;:SYST:ERR?"), "-222,\"Data out of range\"", "and the next line is answered as ever");
}

#[tokio::test(flavor = "multi_thread")]
async fn a_run_by_hand_over_five_ports() {
    let ports = still("honest").await;
    let [mut generator, mut analyser, mut volts, mut amps, mut bench, ..] = Role::ALL.map(|role| Client::to(ports.of(role)));
    assert_eq!(generator.ask("*IDN?").split(',').count(), 4);
    bench.tell("SIM:STEP 200");
    assert_eq!(bench.ask("*OPC?"), "1");
    let rest = volts.number("MEAS:VOLT:DC?");
    let mut last = 0.0;
    for level in [-20.0, -14.0, -8.0, -4.0] {
        generator.tell(&format!("FREQ 40;LEV {level};OUTP ON"));
        assert_eq!(generator.ask("SYST:ERR?"), "0,\"No error\"");
        bench.tell("SIM:STEP 800");
        assert_eq!(bench.ask("*OPC?"), "1");
        let watts = analyser.number("MEAS:POW? (@1)");
        assert!(watts > 2.0 * last, "{level} dB: {watts} W");
        last = watts;
    }
    let distortion = analyser.number("MEAS:DIST? (@1)");
    assert!(distortion < 1.0 && rest - volts.number("MEAS:VOLT:DC?") > 0.05 && amps.number("MEAS:CURR:DC?") > 10.0);
    generator.tell("LEV 2");
    assert_eq!(generator.ask("*OPC?"), "1");
    bench.tell("SIM:STEP 800");
    assert_eq!(bench.ask("*OPC?"), "1");
    assert!(analyser.number("MEAS:DIST? (@1)") > 3.0, "past its limit it distorts");
    generator.tell("OUTP OFF");
    assert_eq!(generator.ask("OUTP?"), "0");
    bench.tell("SIM:STEP 2000");
    assert_eq!(bench.ask("SIM:STAT?"), "ON");
    assert!(analyser.number("MEAS:POW?") < 0.5);
}

#[tokio::test(flavor = "multi_thread")]
async fn every_stand_in_can_be_put_on_it_and_the_same_script_gives_the_same() {
    let script = || async {
        let ports = still("honest").await;
        let [mut generator, mut analyser, mut bench] =
            [Role::Generator, Role::Analyser, Role::Bench].map(|role| Client::to(ports.of(role)));
        let mut shown = Vec::new();
        assert_eq!(bench.ask("SIM:CAT?").split(',').count(), ALL.len());
        for character in &ALL {
            bench.tell(&format!("SIM:AMPL \"{}\"", character.key));
            assert!(bench.ask("SIM:AMPL?").contains(character.name));
            generator.tell("LEV -12;OUTP ON");
            assert_eq!(generator.ask("*OPC?"), "1");
            bench.tell("SIM:STEP 500");
            assert_eq!(bench.ask("*OPC?"), "1");
            shown.push(analyser.ask(&format!("MEAS:POW? (@{})", character.outputs.len())));
        }
        shown
    };
    let (first, second) = (script().await, script().await);
    assert_eq!(first, second);
    assert!(first.iter().all(|watts| watts.parse::<f64>().unwrap() > 1.0), "{first:?}");
}

#[tokio::test(flavor = "multi_thread")]
async fn faults_of_the_wire() {
    let ports = still("honest").await;
    let mut bench = Client::to(ports.of(Role::Bench));
    bench.tell("SIM:STEP 200");
    let mut fault = |kind: &str| {
        bench.tell(&format!("SIM:FAUL voltmeter,{kind}"));
        assert_eq!(bench.ask("SYST:ERR?"), "0,\"No error\"");
    };
    fault("STALL");
    assert!(Client::to(ports.of(Role::Voltmeter)).is_silent("MEAS:VOLT?"));
    fault("HALF");
    let mut volts = Client::to(ports.of(Role::Voltmeter));
    volts.tell("MEAS:VOLT?");
    let mut some = [0u8; 64];
    let count = volts.read.read(&mut some).unwrap();
    assert!(count > 0 && !some[..count].contains(&b'\n'), "half a line");
    fault("DROP");
    let mut volts = Client::to(ports.of(Role::Voltmeter));
    // It may have hung up before it was asked.
    let _ = writeln!(volts.write, "MEAS:VOLT?");
    assert!(matches!(volts.read.read(&mut some), Ok(0) | Err(_)), "it hangs up");
    fault("NONE");
    assert!(Client::to(ports.of(Role::Voltmeter)).number("MEAS:VOLT?") > 14.0);
}

#[tokio::test(flavor = "multi_thread")]
async fn a_line_without_an_end_does_no_harm() {
    let ports = still("honest").await;
    let mut client = Client::to(ports.of(Role::Generator));
    client.write.write_all(&vec![b'A'; 100_000]).unwrap();
    client.tell("");
    let mut other = Client::to(ports.of(Role::Generator));
    assert_eq!(other.ask("*OPC?"), "1", "others are served");
    client.tell("FREQ loud");
    assert!(client.ask("SYST:ERR?").starts_with("-113"), "what was long was no header");
}
