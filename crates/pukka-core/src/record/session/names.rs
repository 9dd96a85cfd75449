//! Names that a session uses for its readings, and for the checks made on them.

use crate::kernel::words::words;

words! {
    /// A reading of a run that can be struck: kept and shown, but not computed with.
    ReadingName {
        /// Everything read at the outputs.
        Outputs = "outputs",
        /// Watts of an output.
        Power = "power_w",
        /// Output volts, rms.
        VoltsRms = "volts_rms",
        /// Output volts, peak.
        VoltsPeak = "volts_peak",
        /// Output volts, peak to peak.
        VoltsPeakToPeak = "volts_pp",
        /// Supply volts under load.
        EndVolts = "end_v",
        /// Supply amps.
        Current = "current_a",
        /// Supply volts at rest.
        RestVolts = "rest_v",
        /// Distortion.
        Distortion = "thd_ratio",
        /// Heatsink temperature.
        Temperature = "temperature_c",
        /// Efficiency off a meter.
        Efficiency = "efficiency_read_ratio",
    }
}

impl ReadingName {
    /// Name on a sheet.
    #[must_use]
    pub const fn words(self) -> &'static str {
        match self {
            Self::Outputs => "outputs",
            Self::Power => "watts",
            Self::VoltsRms => "output volts",
            Self::VoltsPeak | Self::VoltsPeakToPeak => "output peak volts",
            Self::EndVolts => "supply volts under load",
            Self::Current => "amps",
            Self::RestVolts => "supply volts at rest",
            Self::Distortion => "distortion",
            Self::Temperature => "heatsink",
            Self::Efficiency => "efficiency read",
        }
    }

    /// Whether a reviewer strikes it by itself; all outputs at once are struck only with the meter that read them.
    #[must_use]
    pub const fn is_single(self) -> bool {
        !matches!(self, Self::Outputs)
    }
}

words! {
    /// A check on what was read. The rules are in [`crate::assess::checks`], their thresholds in its table.
    CheckCode {
        /// More out than in.
        OverUnity = "over-unity",
        /// More efficient than its class can be.
        ClassCeiling = "class-ceiling",
        /// Efficiency higher at the lower load.
        EfficiencyRises = "efficiency-rises",
        /// More power than the lower load allows.
        PowerStep = "power-step",
        /// Bridged and direct runs that stand for one another differ.
        EquivalentsDisagree = "equivalents-disagree",
        /// Clipping or dynamic power below certified power.
        ModeOrder = "mode-order",
        /// Watts and volts make another load.
        LoadMismatch = "load-mismatch",
        /// A decimal point slipped.
        DigitSlip = "digit-slip",
        /// The same amps twice.
        RepeatedReading = "repeated-reading",
        /// The supply barely sagged.
        SagTooSmall = "sag-too-small",
        /// The supply rose under load.
        VoltageRose = "voltage-rose",
        /// No supply volts were read.
        NoSupplyVolts = "no-supply-volts",
        /// Away from the claim's voltage.
        OutOfWindow = "out-of-window",
        /// The bench held the amplifier back.
        BenchLimited = "bench-limited",
        /// Two meters on one quantity disagree.
        MetersDisagree = "meters-disagree",
        /// A certified run past the distortion limit.
        DistortionOverLimit = "distortion-over-limit",
        /// Channels differ.
        Balance = "balance",
        /// More amps than the fuses.
        Fuse = "fuse",
        /// Heatsink past the stop rule.
        Hot = "hot",
        /// Watts, amps and efficiency make volts that cannot be.
        ImpliedVolts = "implied-volts",
        /// The efficiency read is not that of watts, volts and amps.
        EfficiencyDisagrees = "efficiency-disagrees",
        /// Less efficient than any amplifier.
        LowEfficiency = "low-efficiency",
        /// Less power into the lower load.
        PowerFalls = "power-falls",
        /// Supply volts that no bench has.
        SupplyRange = "supply-range",
        /// A charger was on.
        ChargerOn = "charger-on",
        /// A second meter is off to one side.
        MeterBiased = "meter-biased",
    }
}
