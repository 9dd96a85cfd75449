//! Status reporting, the error queue and the common commands.

use std::collections::VecDeque;

use super::ScpiError;

/// Most errors that are kept.
const MOST_ERRORS: usize = 20;
const POWER_ON: u8 = 0x80;
const COMMAND_ERROR: u8 = 0x20;
const EXECUTION_ERROR: u8 = 0x10;
const DEVICE_ERROR: u8 = 0x08;
const QUERY_ERROR: u8 = 0x04;
const OPERATION_COMPLETE: u8 = 0x01;
const ERROR_QUEUE: u8 = 0x04;
const MESSAGE_AVAILABLE: u8 = 0x10;
const EVENT_SUMMARY: u8 = 0x20;
const SERVICE_REQUEST: u8 = 0x40;

/// Standard event status, status byte, error queue.
#[derive(Debug, Clone)]
pub struct Status {
    events: u8,
    event_mask: u8,
    service_mask: u8,
    errors: VecDeque<ScpiError>,
    /// Operation and questionable status: their enable registers. Nothing here ever sets a condition.
    masks: [u16; 2],
    /// Answers of this line wait to be read.
    pub(super) waits: bool,
}

impl Default for Status {
    fn default() -> Self {
        Self { events: POWER_ON, event_mask: 0, service_mask: 0, errors: VecDeque::new(), masks: [0; 2], waits: false }
    }
}

impl Status {
    /// Keeps an error. A full queue keeps the oldest and says that it overflowed.
    pub fn error(&mut self, error: ScpiError) {
        self.events |= match error.0 {
            -199..=-100 => COMMAND_ERROR,
            -299..=-200 => EXECUTION_ERROR,
            -499..=-400 => QUERY_ERROR,
            _ => DEVICE_ERROR,
        };
        if self.errors.len() < MOST_ERRORS {
            self.errors.push_back(error);
        } else if let Some(last) = self.errors.back_mut() {
            *last = (-350, "Queue overflow");
            self.events |= DEVICE_ERROR;
        }
    }

    /// The oldest error, taken off the queue.
    pub fn next_error(&mut self) -> String {
        let (number, text) = self.errors.pop_front().unwrap_or((0, "No error"));
        format!("{number},\"{text}\"")
    }

    /// Every error there is, taken off the queue.
    pub fn all_errors(&mut self) -> String {
        let first = self.next_error();
        let rest: Vec<String> = (0..self.errors.len()).map(|_| self.next_error()).collect();
        [vec![first], rest].concat().join(",")
    }

    /// Number.
    #[must_use]
    pub fn error_count(&self) -> usize {
        self.errors.len()
    }

    /// The status registers beside the standard ones: `OPERation` and `QUEStionable`.
    pub fn registers(&mut self, header: &str, parameters: &str) -> Option<Result<Option<String>, ScpiError>> {
        if super::matches("STATus:PRESet", header) {
            self.masks = [0; 2];
            return Some(Ok(None));
        }
        for (at, name) in ["OPERation", "QUEStionable"].into_iter().enumerate() {
            if super::matches(&format!("STATus:{name}[:EVENt]?"), header) || super::matches(&format!("STATus:{name}:CONDition?"), header) {
                return Some(Ok(Some("0".into())));
            }
            if super::matches(&format!("STATus:{name}:ENABle?"), header) {
                return Some(Ok(Some(self.masks[at].to_string())));
            }
            if super::matches(&format!("STATus:{name}:ENABle"), header) {
                let mask = super::number::Number::plain(0.0, 65_535.0).read(parameters);
                return Some(mask.map(|mask| {
                    self.masks[at] = mask.round() as u16;
                    None
                }));
            }
        }
        None
    }

    fn byte(&self) -> u8 {
        let mut byte = 0;
        if !self.errors.is_empty() {
            byte |= ERROR_QUEUE;
        }
        if self.waits {
            byte |= MESSAGE_AVAILABLE;
        }
        if self.events & self.event_mask != 0 {
            byte |= EVENT_SUMMARY;
        }
        if byte & self.service_mask & !SERVICE_REQUEST != 0 {
            byte |= SERVICE_REQUEST;
        }
        byte
    }

    /// Does a common command: `None` when it is not one of these. `*IDN?` and `*RST` are the instrument's own.
    pub fn common(&mut self, header: &str, parameters: &str) -> Option<Option<String>> {
        let mask = super::number::Number::plain(0.0, 255.0).read(parameters).map(|value| value.round() as u8);
        let answer = match header.to_ascii_uppercase().as_str() {
            "*CLS" => {
                self.events = 0;
                self.errors.clear();
                None
            }
            "*ESE" | "*SRE" => {
                match mask {
                    Ok(value) if header.eq_ignore_ascii_case("*ESE") => self.event_mask = value,
                    Ok(value) => self.service_mask = value & !SERVICE_REQUEST,
                    Err(error) => self.error(error),
                }
                None
            }
            "*ESE?" => Some(self.event_mask.to_string()),
            "*SRE?" => Some(self.service_mask.to_string()),
            "*ESR?" => {
                let events = self.events;
                self.events = 0;
                Some(events.to_string())
            }
            "*STB?" => Some(self.byte().to_string()),
            "*OPC" => {
                self.events |= OPERATION_COMPLETE;
                None
            }
            "*OPC?" => Some("1".into()),
            "*TST?" => Some("0".into()),
            "*WAI" => None,
            _ => return None,
        };
        Some(answer)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn errors_are_events_and_are_read_oldest_first() {
        let mut status = Status::default();
        assert_eq!(status.common("*ESR?", ""), Some(Some("128".into())), "it was just powered on");
        status.error(super::super::UNDEFINED_HEADER);
        status.error(super::super::OUT_OF_RANGE);
        assert_eq!(status.common("*STB?", ""), Some(Some("4".into())));
        assert_eq!(status.common("*ESE", "48"), Some(None));
        assert_eq!(status.common("*STB?", ""), Some(Some("36".into())));
        assert_eq!(status.common("*ESR?", ""), Some(Some("48".into())));
        assert_eq!(status.next_error(), "-113,\"Undefined header\"");
        assert_eq!(status.next_error(), "-222,\"Data out of range\"");
        assert_eq!(status.next_error(), "0,\"No error\"");
        assert_eq!(status.common("MEAS:VOLT?", ""), None);
    }

    #[test]
    fn a_full_queue_says_so() {
        let mut status = Status::default();
        for _ in 0..30 {
            status.error(super::super::UNDEFINED_HEADER);
        }
        assert_eq!(status.common("*ESR?", ""), Some(Some("168".into())), "power on, a command error, and one of the device: it overflowed");
        let all: Vec<String> = (0..MOST_ERRORS).map(|_| status.next_error()).collect();
        assert_eq!(all.last().unwrap(), "-350,\"Queue overflow\"");
        assert_eq!(status.next_error(), "0,\"No error\"");
    }
}
