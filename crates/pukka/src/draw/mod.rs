//! Charts, drawn once: SVG whose colours are the classes of the theme, and whose marks have names.
//!
//! The web shows the same SVG inline and lays its interaction over the marks.

pub mod bars;
pub mod efficiency;
pub mod fuses;
pub mod marks;
pub mod network;
pub mod sags;

use serde::{Deserialize, Serialize};

/// A chart and where its points are, as fractions of its width and height from the top left.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PlacedChart {
    /// The drawing.
    pub svg: String,
    /// Points, in order.
    pub points: Vec<Point>,
}

/// A place in a chart.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Point {
    /// From the left, of 1.
    pub x: f64,
    /// From the top, of 1.
    pub y: f64,
}

/// Neighbours that are alike, from and to: what they share is written once.
fn groups<T, K: PartialEq>(list: &[T], key: impl Fn(&T) -> K) -> Vec<(usize, usize)> {
    let mut groups: Vec<(usize, usize)> = Vec::new();
    for (i, one) in list.iter().enumerate() {
        match groups.last_mut().filter(|(from, _)| key(&list[*from]) == key(one)) {
            Some(group) => group.1 = i,
            None => groups.push((i, i)),
        }
    }
    groups
}

/// A number of a drawing, to a tenth.
fn tenth(value: f64) -> String {
    format!("{value:.1}")
}

/// A fraction of a width, as a percentage.
fn percent(fraction: f64) -> String {
    format!("{:.2}%", fraction * 100.0)
}

#[cfg(test)]
mod tests {
    use pukka_core::record::session::examples::mono_1100;
    use pukka_core::report::view::view;

    use super::*;

    #[test]
    fn bars_carry_named_marks_and_survive_any_name() {
        let mut session = mono_1100();
        session.claims[0].id = "c\"<1>".into();
        let svg = bars::bars(&view(&session).rows[0], bars::SCREEN).into_string();
        assert!(svg.contains("data-claim=\"c&quot;&lt;1&gt;\""), "{svg}");
        assert_eq!(svg.matches("data-mode=").count(), 3);
        assert_eq!(svg.matches("data-plus-minus=").count(), 3, "every bar says how sure it is");
        assert!(svg.contains("class=\"within\""), "and the mark from where it holds within ±");
        assert!(svg.contains("aria-label=\"450 W claimed into 4\u{202f}Ω: certified 447 W, clipping 462 W, dynamic 489 W\""), "{svg}");
    }

    #[test]
    fn sags_hang_from_rest_to_end() {
        let chart = sags::sags(&view(&mono_1100()).sags).unwrap();
        assert_eq!(chart.points.len(), 9);
        assert_eq!(chart.svg.matches("data-sag=").count(), 9);
        assert!(chart.points.iter().all(|p| (0.0..1.0).contains(&p.x) && (0.0..1.0).contains(&p.y)));
        assert_eq!(sags::sags(&[]), None);
    }

    #[test]
    fn efficiency_points_lie_inside_and_fall_with_the_load() {
        let chart = efficiency::efficiency(&view(&mono_1100()).loads).unwrap();
        assert_eq!(chart.points.len(), 3);
        assert!(chart.points.iter().all(|p| (0.0..1.0).contains(&p.x) && (0.0..1.0).contains(&p.y)));
        assert!(chart.points.windows(2).all(|pair| pair[0].x < pair[1].x && pair[0].y < pair[1].y));
        assert_eq!(efficiency::efficiency(&[]), None);
    }
}
