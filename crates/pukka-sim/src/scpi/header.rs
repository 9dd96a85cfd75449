//! Headers: long and short forms, optional nodes, channel lists.

/// Whether a header as typed is the one of a pattern: `MEASure[:SCALar]:VOLTage:DC?`. Capitals are the short form, brackets
/// hold nodes that may be left out.
#[must_use]
pub fn matches(pattern: &str, header: &str) -> bool {
    let (pattern, header) = match (pattern.strip_suffix('?'), header.strip_suffix('?')) {
        (Some(pattern), Some(header)) => (pattern, header),
        (None, None) => (pattern, header),
        _ => return false,
    };
    let mut nodes = Vec::new();
    let marked = pattern.replace("[:", "\n?").replace(']', "");
    for part in marked.split([':', '\n']).filter(|part| !part.is_empty()) {
        match part.strip_prefix('?') {
            Some(node) => nodes.push((node, true)),
            None => nodes.push((part, false)),
        }
    }
    let typed: Vec<&str> = header.trim_start_matches(':').split(':').collect();
    walk(&nodes, &typed)
}

fn walk(nodes: &[(&str, bool)], typed: &[&str]) -> bool {
    match (nodes.split_first(), typed.split_first()) {
        (None, None) => true,
        (None, Some(_)) => false,
        (Some(((_, optional), rest)), None) => *optional && walk(rest, typed),
        (Some(((node, optional), rest)), Some((first, more))) => {
            (is_node(node, first) && walk(rest, more)) || (*optional && walk(rest, typed))
        }
    }
}

fn is_node(node: &str, typed: &str) -> bool {
    let short: String = node.chars().filter(|c| !c.is_ascii_lowercase()).collect();
    typed.eq_ignore_ascii_case(node) || typed.eq_ignore_ascii_case(&short)
}

/// The channel of a list, `(@2)`, counted from 0; the first when none is named.
pub fn channel(parameters: &str) -> Result<usize, ()> {
    let Some(inner) = parameters.trim().strip_prefix("(@") else {
        return if parameters.trim().is_empty() { Ok(0) } else { Err(()) };
    };
    let number: usize = inner.strip_suffix(')').ok_or(())?.trim().parse().map_err(|_| ())?;
    number.checked_sub(1).ok_or(())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn long_and_short_forms_and_what_may_be_left_out() {
        let pattern = "MEASure[:SCALar]:VOLTage[:DC]?";
        for header in ["MEAS:VOLT?", "measure:voltage:dc?", ":MEAS:SCAL:VOLT:DC?", "MEASure:SCALar:VOLT?"] {
            assert!(matches(pattern, header), "{header}");
        }
        for header in ["MEAS:VOLT", "MEASU:VOLT?", "MEAS:VOLT:AC?", "MEAS?", "VOLT?"] {
            assert!(!matches(pattern, header), "{header}");
        }
        assert_eq!((channel("(@2)"), channel(""), channel("(@0)"), channel("2")), (Ok(1), Ok(0), Err(()), Err(())));
    }
}
