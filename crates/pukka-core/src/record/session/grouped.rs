//! What a mixed wiring asks of the records that carry it: a load, a measured load and a group at each of its outputs.

use crate::kernel::problem::Problem;
use crate::kernel::units::Ohms;
use crate::kernel::wiring::Wiring;
use crate::record::session::{OutputReading, Run};

/// Measured loads stand with the groups of a mixed wiring, and with the wiring itself where it is none.
pub fn check_measured(wiring: Wiring, one: Option<Ohms>, of_groups: &[Ohms]) -> Vec<Problem> {
    let mut problems = Vec::new();
    match wiring.groups() {
        None if !of_groups.is_empty() => {
            problems.push(Problem::new("group_loads_measured_ohm", "Only a mixed wiring has groups."));
        }
        Some(_) if one.is_some() => {
            problems.push(Problem::new("load_measured_ohm", "Of a mixed wiring each group has its own: group_loads_measured_ohm."));
        }
        Some(groups) if !of_groups.is_empty() && of_groups.len() != groups.iter().count() => problems.push(Problem::new(
            "group_loads_measured_ohm",
            format!("{} loads for {} groups: give each of them.", of_groups.len(), groups.iter().count()),
        )),
        _ => {}
    }
    problems
}

/// Problems with the groups of a run.
pub fn check_run(run: &Run) -> Vec<Problem> {
    let mut problems = check_measured(run.wiring, run.load_measured_ohm, &run.group_loads_measured_ohm);
    problems.extend(run.wiring.check_load("load_nominal_ohm", run.load_nominal_ohm));
    problems.extend(check_outputs(run.wiring, "outputs", &run.outputs));
    for (i, step) in run.steps.iter().enumerate() {
        problems.extend(check_outputs(run.wiring, &format!("steps[{i}].outputs"), &step.outputs));
    }
    if let Some(hold) = &run.hold {
        problems.extend(check_outputs(run.wiring, "hold.outputs", &hold.outputs));
    }
    problems
}

fn check_outputs(wiring: Wiring, at: &str, outputs: &[OutputReading]) -> Vec<Problem> {
    let mut problems = Vec::new();
    let groups = wiring.groups();
    for (i, output) in outputs.iter().enumerate() {
        let says = match (groups, output.group) {
            (None, Some(_)) => Some("Only a mixed wiring has groups.".to_owned()),
            (Some(_), None) => Some("Which group is it of? Groups count from 0.".to_owned()),
            (Some(groups), Some(group)) if groups.get(group).is_none() => Some(format!("There is no group {group}: they count from 0.")),
            _ => None,
        };
        problems.extend(says.map(|says| Problem::new(format!("{at}[{i}].group"), says)));
    }
    if outputs.windows(2).any(|pair| pair[0].group > pair[1].group) {
        problems.push(Problem::new(at, "Outputs stand in the order of their groups."));
    }
    for (index, group) in (0u8..).zip(groups.iter().flat_map(|groups| groups.iter())) {
        let read = outputs.iter().filter(|output| output.group == Some(index)).count();
        if read > usize::from(group.outputs()) {
            let says = format!("{read} readings are of group {index}, and it has {} outputs: {}.", group.outputs(), group.words());
            problems.push(Problem::new(at, says));
        }
    }
    problems
}

/// Says which group each output of a line is of: all outputs in the order of the groups, or one of each group.
///
/// # Errors
/// In words, when it can be read neither way.
pub fn assign(wiring: Wiring, outputs: &mut [OutputReading]) -> Result<(), String> {
    let Some(groups) = wiring.groups() else { return Ok(()) };
    let counts = groups.outputs();
    let all = counts.iter().map(|count| usize::from(*count)).sum::<usize>();
    let order: Vec<u8> = if outputs.len() == all {
        (0u8..).zip(&counts).flat_map(|(group, count)| std::iter::repeat_n(group, usize::from(*count))).collect()
    } else if outputs.len() == counts.len() {
        (0u8..).zip(&counts).map(|(group, _)| group).collect()
    } else if outputs.is_empty() {
        Vec::new()
    } else {
        return Err(format!("{}: type all {all} outputs in this order, or one of each group.", wiring.words()));
    };
    for (output, group) in outputs.iter_mut().zip(order) {
        output.group = Some(group);
    }
    Ok(())
}
