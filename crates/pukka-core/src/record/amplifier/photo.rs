//! What is said of a photo: a line, marks drawn on it, the run it was taken in, and whether the sheet shows it.

use serde::{Deserialize, Serialize};

use crate::kernel::absent::or_default;
use crate::kernel::problem::{Problem, check_text};

/// Shape of a mark.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum MarkShape {
    /// From a place to the thing it points at.
    Arrow,
    /// Round a thing: from its middle to its edge.
    Ring,
    /// Words at a place.
    Label,
}

/// A mark on a photo. Places are fractions of its width and height, so that they hold at any size.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PhotoMark {
    /// Shape.
    pub shape: MarkShape,
    /// From the left.
    pub x: f64,
    /// From the top.
    pub y: f64,
    /// Where an arrow points, or a point on a ring: from the left. Not for a label.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub to_x: Option<f64>,
    /// Likewise, from the top.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub to_y: Option<f64>,
    /// Words beside it. A row of the parts with the same label is the thing it marks.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub label: String,
}

/// Everything that is said of a photo.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PhotoWords {
    /// What it shows, in a line.
    #[serde(default)]
    pub caption: String,
    /// Marks on it.
    #[serde(default, deserialize_with = "or_default", skip_serializing_if = "Vec::is_empty")]
    pub marks: Vec<PhotoMark>,
    /// The run it was taken in.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub run_id: Option<String>,
    /// The result sheet shows it.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub on_sheet: bool,
}

const MOST_MARKS: usize = 40;
const LONGEST: usize = 200;

impl PhotoWords {
    /// Problems with it.
    #[must_use]
    pub fn check(&self) -> Vec<Problem> {
        let mut problems = Vec::new();
        check_text(&mut problems, "caption", &self.caption, false, LONGEST);
        check_text(&mut problems, "run_id", self.run_id.as_deref().unwrap_or(""), false, 80);
        if self.marks.len() > MOST_MARKS {
            problems.push(Problem::new("marks", format!("More than {MOST_MARKS} marks.")));
        }
        for (i, mark) in self.marks.iter().enumerate() {
            problems.extend(crate::kernel::problem::under(&format!("marks[{i}]"), mark.check()));
        }
        problems
    }

    /// The same as far as it is sound: what stands in a file of elsewhere.
    #[must_use]
    pub fn sound(mut self) -> Self {
        self.caption = self.caption.chars().filter(|c| !c.is_control()).take(LONGEST).collect();
        self.marks.retain(|mark| mark.check().is_empty());
        self.marks.truncate(MOST_MARKS);
        self
    }
}

impl PhotoMark {
    fn check(&self) -> Vec<Problem> {
        let mut problems = Vec::new();
        check_text(&mut problems, "label", &self.label, self.shape == MarkShape::Label, 60);
        let places = [("x", Some(self.x)), ("y", Some(self.y)), ("to_x", self.to_x), ("to_y", self.to_y)];
        for (name, place) in places {
            if place.is_some_and(|place| !(0.0..=1.0).contains(&place)) {
                problems.push(Problem::new(name, "Between 0 and 1: a fraction of the photo."));
            }
        }
        if (self.shape == MarkShape::Label) != (self.to_x.is_none() && self.to_y.is_none()) || self.to_x.is_some() != self.to_y.is_some() {
            problems.push(Problem::new("to_x", "An arrow and a ring have both, a label has neither."));
        }
        problems
    }
}

#[cfg(test)]
mod tests {
    use serde_json::json;

    use super::*;

    fn words(mark: serde_json::Value) -> PhotoWords {
        serde_json::from_value(json!({ "caption": "Power stage", "marks": [mark] })).unwrap()
    }

    #[test]
    fn a_mark_lies_on_the_photo_and_has_the_ends_of_its_shape() {
        for good in [
            json!({ "shape": "label", "x": 0.5, "y": 0.0, "label": "A" }),
            json!({ "shape": "ring", "x": 0.5, "y": 0.5, "to_x": 0.6, "to_y": 0.5 }),
            json!({ "shape": "arrow", "x": 0.1, "y": 0.1, "to_x": 1.0, "to_y": 1.0, "label": "burnt" }),
        ] {
            assert_eq!(words(good.clone()).check(), [], "{good}");
            assert_eq!(words(good).sound().marks.len(), 1);
        }
        for (bad, path) in [
            (json!({ "shape": "label", "x": 0.5, "y": 0.5 }), "marks[0].label"),
            (json!({ "shape": "label", "x": 0.5, "y": 0.5, "to_x": 0.1, "to_y": 0.1, "label": "A" }), "marks[0].to_x"),
            (json!({ "shape": "arrow", "x": 0.5, "y": 0.5, "to_x": 0.1 }), "marks[0].to_x"),
            (json!({ "shape": "ring", "x": 0.5, "y": 0.5 }), "marks[0].to_x"),
            (json!({ "shape": "ring", "x": 1.5, "y": 0.5, "to_x": 0.1, "to_y": 0.1 }), "marks[0].x"),
        ] {
            let found: Vec<String> = words(bad.clone()).check().into_iter().map(|problem| problem.path).collect();
            assert_eq!(found, [path], "{bad}");
            assert_eq!(words(bad).sound().marks, []);
        }
    }
}
