#include "base/units.h"

#include <gtest/gtest.h>

#include "base/error.h"
#include "base/text.h"

using namespace pour;

TEST(Units, ReadsWhatPeopleWrite) {
  EXPECT_DOUBLE_EQ(parse_quantity("12cm", Unit::length, "x"), 0.12);
  EXPECT_DOUBLE_EQ(parse_quantity(" 5 mm ", Unit::length, "x"), 0.005);
  EXPECT_DOUBLE_EQ(parse_quantity("1/3", Unit::none, "x"), 1.0 / 3);
  EXPECT_DOUBLE_EQ(parse_quantity("1/4 m", Unit::length, "x"), 0.25);
  EXPECT_DOUBLE_EQ(parse_quantity("1 in", Unit::length, "x"), 0.0254);  // exact by definition, ISO 80000-3
  EXPECT_DOUBLE_EQ(parse_quantity("1 g", Unit::acceleration, "x"), 9.80665);  // standard gravity, ISO 80000-3
  EXPECT_DOUBLE_EQ(parse_quantity("3.6 km/h", Unit::speed, "x"), 1.0);
  EXPECT_DOUBLE_EQ(parse_quantity("2.4 g/m³·s", Unit::density_rate, "x"), 0.0024);
  EXPECT_DOUBLE_EQ(parse_quantity("−2", Unit::none, "x"), -2);
  EXPECT_DOUBLE_EQ(parse_quantity("7", Unit::length, "x"), 0.07) << "a bare length is in centimetres";
}

TEST(Units, SaysWhatIsWrongAndWhatWouldBeRight) {
  for (const char* text : {"", "fast", "12 parsec", "1/0", "nan", "inf", "3 cm cm"}) {
    try {
      parse_quantity(text, Unit::length, "pieces.word.depth");
      FAIL() << text;
    } catch (const Fault& f) {
      EXPECT_EQ(f.where, "pieces.word.depth");
      EXPECT_NE(f.mend.find("mm"), std::string::npos) << f.mend;
    }
  }
}

TEST(Units, PrintsFriendly) {
  EXPECT_EQ(format_quantity(0.012, Unit::length), "1.2 cm");
  EXPECT_EQ(format_quantity(0.003, Unit::length), "3 mm");
  EXPECT_EQ(format_quantity(12, Unit::length), "12 m");
  EXPECT_EQ(format_quantity(0, Unit::speed), "0 m/s");
  EXPECT_EQ(format_duration(41), "41 s");
  EXPECT_EQ(format_duration(26 * 60), "26 min");
  EXPECT_EQ(format_bytes(4.6e9), "4.6 GB");
  EXPECT_EQ(format_count(1.21e6), "1.21 M");
}

TEST(Units, PrintingAndReadingAgree) {
  for (const double v : {1e-4, 0.0025, 0.07, 0.333333, 4.0, 123.4, 5000.0})
    EXPECT_NEAR(parse_quantity(format_quantity(v, Unit::length, 6), Unit::length, "x"), v, 2e-5 * v);
}

TEST(Units, NearestWord) {
  EXPECT_EQ(nearest("gravty", {"gravity", "turbulence"}), "gravity");
  EXPECT_EQ(nearest("zzzzzz", {"gravity", "turbulence"}), "");
  EXPECT_EQ(nearest("pours.mint.rate", {"pours.mint.name", "pours.mint.density_rate"}),
            "pours.mint.density_rate")
      << "a part of the name is nearer than another name";
}

TEST(Units, PeopleReadDurationsBytesAndCounts) {
  EXPECT_EQ(format_duration(0.2), "under 1 s");
  EXPECT_EQ(format_duration(41), "41 s");
  EXPECT_EQ(format_duration(3 * 60), "3 min");
  EXPECT_EQ(format_duration(2 * 3600 + 10 * 60), "2 h 10 min");
  EXPECT_EQ(format_bytes(4.6e9), "4.6 GB");
  EXPECT_EQ(format_bytes(512), "512 B");
  EXPECT_EQ(format_count(1234567), "1.23 M");
  EXPECT_EQ(format_count(999), "999");
}

TEST(Units, EveryUnitKnowsItsSuffixes) {
  for (const Unit u :
       {Unit::percent, Unit::length, Unit::time, Unit::speed, Unit::acceleration, Unit::warmth, Unit::density,
        Unit::density_rate, Unit::angle, Unit::rate, Unit::area_by_mass, Unit::focal}) {
    ASSERT_FALSE(suffixes(u).empty());
    for (const std::string& suffix : suffixes(u)) {
      if (suffix[0] == '1') continue;  // 2.51/s would be another number
      const double one = parse_quantity("1 " + suffix, u, "x");
      EXPECT_TRUE(std::isfinite(one)) << suffix;
      EXPECT_NEAR(parse_quantity("2.5" + suffix, u, "x"), 2.5 * one, 1e-12 * std::abs(one))
          << suffix << ": no space";
    }
    EXPECT_THROW(parse_quantity("1 parsnip", u, "x"), Fault);
  }
}
