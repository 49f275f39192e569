//! The colours of the house, once: pages take them as custom properties, drawings as attributes.

/// Declares each colour as a constant and in [`ALL`] under its name in style sheets.
macro_rules! tokens {
    ($($(#[$doc:meta])* $name:ident $css:literal $value:literal;)*) => {
        $($(#[$doc])* pub const $name: &str = $value;)*
        /// Every colour: its name in style sheets without the dashes, and its value.
        pub const ALL: &[(&str, &str)] = &[$(($css, $name)),*];
    };
}

tokens! {
    /// Text.
    INK "ink" "#17292b";
    /// The page.
    PAPER "paper" "#f6f3ea";
    /// Panels, and what stands out of the ground.
    CARD "card" "#fffdf7";
    /// Hairlines.
    LINE "line" "#d8d2c2";
    /// Words of less weight; 4.5:1 on paper.
    SOFT "soft" "#5c6461";
    /// Inside a field, and words on a filled button.
    WHITE "white" "#ffffff";
    /// Water.
    WATER "water" "#0a6c86";
    /// The most water on the map.
    WATER_DEEP "water-deep" "#0b4f66";
    /// Water, thin.
    WATER_THIN "water-thin" "#cfe4e6";
    /// What is chosen.
    WATER_CHOSEN "water-chosen" "#e9f1f2";
    /// Action.
    EARTH "earth" "#b4491f";
    /// Action, under the pointer.
    EARTH_DARK "earth-dark" "#983b16";
    /// Words of what is picked on the board.
    EARTH_DEEP "earth-deep" "#8c3614";
    /// What is being looked at.
    EARTH_THIN "earth-thin" "#fbf0e6";
    /// All right.
    OK "ok" "#3e7a3a";
    /// All right, thin.
    OK_THIN "ok-thin" "#dce8d3";
    /// Within the design flow.
    OK_FAINT "ok-faint" "#edf3ee";
    /// Keep an eye on it.
    WATCH "watch" "#8a5a10";
    /// Keep an eye on it, thin.
    WATCH_THIN "watch-thin" "#fbf5e3";
    /// Stop.
    STOP "stop" "#a3242a";
    /// Stop, thin.
    STOP_THIN "stop-thin" "#fbeeea";
    /// A notice across the page.
    STOP_BAND "stop-band" "#f9e7e3";
    /// The empty part of a bar.
    TROUGH "trough" "#e8e2d3";
    /// Keys, and lines under the pointer.
    KEY "key" "#efe9da";
    /// Where there is nothing yet.
    TEACH "teach" "#f3efe2";
    /// Edge of a field.
    FIELD_EDGE "field-edge" "#a9a493";
    /// What a field expects.
    HINT "hint" "#767a72";
    /// The sheet that the board lies on.
    SHEET "sheet" "#fbf9f2";
    /// Its squares.
    SQUARES "squares" "#e6e0cf";
    /// Zones: apart for colour-blind eyes; each also has its number and a pattern.
    ZONE_1 "zone-1" "#0a6c86";
    /// Zone 2.
    ZONE_2 "zone-2" "#8a5a9e";
    /// Zone 3.
    ZONE_3 "zone-3" "#3e7a3a";
    /// Zone 4.
    ZONE_4 "zone-4" "#9a6212";
    /// Zone 5.
    ZONE_5 "zone-5" "#44546a";
    /// Zone 6.
    ZONE_6 "zone-6" "#a03c5b";
    /// Zone 7.
    ZONE_7 "zone-7" "#2f6fb5";
    /// Zone 8.
    ZONE_8 "zone-8" "#6b6b1f";
    /// Lawn.
    LAWN "lawn" "#d5deb9";
    /// Its edge.
    LAWN_EDGE "lawn-edge" "#5d7040";
    /// Beds.
    BED "bed" "#e8dcc0";
    /// Their edge.
    BED_EDGE "bed-edge" "#8a6a33";
    /// Hedges.
    HEDGE "hedge" "#bfd0ae";
    /// Edge of hedges, stems of plants.
    LEAF "leaf" "#41613a";
    /// Slopes.
    BANK "bank" "#dbe0c4";
    /// Their edge.
    BANK_EDGE "bank-edge" "#6f6a34";
    /// Ground under trees.
    TREES "trees" "#c8d8c0";
    /// Its edge.
    TREES_EDGE "trees-edge" "#3f6146";
    /// Containers.
    POTS "pots" "#e9d3bd";
    /// Their edge.
    POTS_EDGE "pots-edge" "#93592c";
    /// Vegetables.
    ROWS "rows" "#dfe0ae";
    /// Their edge.
    ROWS_EDGE "rows-edge" "#75741f";
    /// The canopy of a plant.
    CANOPY "canopy" "#a9c39a";
    /// What stays dry.
    DRY "dry" "#e6e3dc";
    /// Its edge.
    DRY_EDGE "dry-edge" "#6d6a62";
    /// Buildings.
    HOUSE "house" "#ebe4da";
    /// Their hatching.
    HATCH "hatch" "#b9ac9a";
    /// Windows.
    GLASS "glass" "#44698c";
    /// Paths.
    PAVING "paving" "#efebe2";
    /// Car parks.
    CARS "cars" "#dcdad6";
    /// The neighbour.
    NEXT_DOOR "next-door" "#f0e9ea";
    /// The boundary.
    NEXT_DOOR_EDGE "next-door-edge" "#8c5a64";
    /// The map of the water, from dry to wet.
    MAP_DRIEST "map-driest" "#e9b48f";
    /// Map, second band.
    MAP_DRY "map-dry" "#f1ddb5";
    /// Map, third band.
    MAP_EVEN "map-even" "#dcebea";
    /// Map, fourth band.
    MAP_GOOD "map-good" "#b4d6dc";
    /// Map, fifth band.
    MAP_WET "map-wet" "#86bac7";
    /// Map, sixth band.
    MAP_WETTER "map-wetter" "#4a93a8";
    /// Water beside the area.
    SPILT "spilt" "#8a6a8f";
}

/// Colours of the zones, by the valve's number from 1 on, again from the first after the last.
pub const ZONES: [&str; 8] = [ZONE_1, ZONE_2, ZONE_3, ZONE_4, ZONE_5, ZONE_6, ZONE_7, ZONE_8];

/// The colours as custom properties, for the head of a page's styles.
pub fn root_css() -> String {
    let mut css = String::from(":root {\n");
    for (name, value) in ALL {
        css.push_str(&format!("  --{name}: {value};\n"));
    }
    css.push_str("}\n");
    css
}

/// Styles with every colour written out: for drawings that leave the page, whose readers may not
/// know custom properties.
pub fn written_out(css: &str) -> String {
    let mut css = css.to_owned();
    for (name, value) in ALL {
        css = css.replace(&format!("var(--{name})"), value);
    }
    css
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_drawing_that_leaves_the_page_names_no_colour_of_the_page() {
        let css = written_out(".a { fill: var(--ink); stroke: var(--zone-8); r: calc(2 * var(--mpp)) }");
        assert_eq!(css, ".a { fill: #17292b; stroke: #6b6b1f; r: calc(2 * var(--mpp)) }");
        let board = written_out(crate::board::BOARD_CSS);
        let left: Vec<&str> = board.matches("var(--").collect();
        assert_eq!(left.len(), board.matches("var(--mpp").count(), "only the scale is the page's to set");
    }

    #[test]
    fn no_two_colours_share_a_name() {
        let mut names: Vec<&str> = ALL.iter().map(|t| t.0).collect();
        names.sort_unstable();
        names.dedup();
        assert_eq!(names.len(), ALL.len());
        assert!(root_css().contains("  --earth: #b4491f;\n"));
    }
}
