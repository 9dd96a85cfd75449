//! Which dated copies are kept.

use std::collections::BTreeSet;

use jiff::Timestamp;
use jiff::civil::Date;
use jiff::tz::TimeZone;

const DAYS: usize = 7;
const WEEKS: usize = 8;
const MONTHS: usize = 12;

/// The copies to keep: the newest of each of the last 7 days, 8 weeks and 12 months that have one.
pub fn kept(all: &[Timestamp]) -> BTreeSet<Timestamp> {
    let mut newest_first = all.to_vec();
    newest_first.sort_by(|a, b| b.cmp(a));
    let mut keep = BTreeSet::new();
    let mut by = |most: usize, period: fn(Date) -> (i16, i16)| {
        let mut seen: Vec<(i16, i16)> = Vec::new();
        for at in &newest_first {
            let is_in = period(TimeZone::UTC.to_datetime(*at).date());
            if seen.contains(&is_in) {
                continue;
            }
            if seen.len() == most {
                break;
            }
            seen.push(is_in);
            keep.insert(*at);
        }
    };
    by(DAYS, |date| (date.year(), date.day_of_year()));
    by(WEEKS, |date| {
        let week = date.iso_week_date();
        (week.year(), week.week().into())
    });
    by(MONTHS, |date| (date.year(), date.month().into()));
    keep
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::SignedDuration;

    #[test]
    fn seven_days_eight_weeks_twelve_months() {
        let first: Timestamp = "2024-01-01T09:00:00Z".parse().unwrap();
        // Two years, twice a day, thinned as it goes, as the program does.
        let mut there: Vec<Timestamp> = Vec::new();
        for half_day in 0..1_460 {
            there.push(first + SignedDuration::from_hours(12 * half_day));
            there = kept(&there).into_iter().collect();
        }
        let last = *there.last().unwrap();
        let age = |at: &Timestamp| last.duration_since(*at).as_hours() / 24;
        assert!((18..=27).contains(&there.len()), "{}", there.len());
        assert_eq!(there.iter().filter(|at| age(at) < 7).count(), 7, "one a day");
        assert!(there.iter().any(|at| (330..=366).contains(&age(at))), "the oldest is nearly a year old");
        assert!(there.iter().all(|at| age(at) <= 366));
    }

    #[test]
    fn a_few_copies_are_all_kept_and_a_clock_that_jumped_loses_none_but_by_the_rule() {
        let at = |text: &str| text.parse::<Timestamp>().unwrap();
        let few = [at("2026-11-20T08:00:00Z"), at("2026-11-22T08:00:00Z"), at("2037-01-01T00:00:00Z")];
        assert_eq!(kept(&few), few.into_iter().collect());
        assert_eq!(kept(&[]), BTreeSet::new());
        let one_day = [at("2026-11-20T08:00:00Z"), at("2026-11-20T18:00:00Z")];
        assert_eq!(kept(&one_day), [one_day[1]].into_iter().collect(), "the newest of a day");
    }
}
