// Tables of settings: each row describes a member of a struct.
#pragma once
#include <algorithm>
#include <functional>
#include <type_traits>
#include <vector>

#include "shot/value.h"

namespace pour {

struct Shot;

/// A setting of a T. Values written must be of the kind that is read.
template <class T>
struct Row : About {
  std::function<Value(const T&)> get;
  std::function<void(T&, const Value&)> set;
  std::function<bool(const T&)> applies;            // whether it has an effect now; empty: always
  std::function<bool(const Shot&, const T&)> fits;  // whether it has an effect in this shot; empty: always
  double (*stands_for)(const Shot&, const T&) = nullptr;  // computes zero_is

  /// Its description for an item of a shot.
  About about(const Shot& shot, const T& item) const {
    About out = *this;
    if (stands_for) out.zero_is = stands_for(shot, item);
    return out;
  }
  bool has_effect(const Shot& shot, const T& item) const {
    return (!applies || applies(item)) && (!fits || fits(shot, item));
  }
};

template <class T>
using Table = std::vector<Row<T>>;

/// The settings of a kind as settings of an item that holds it in a variant, for items of this kind.
template <class Item, class Kind, class Variant>
Table<Item> as_settings_of(Variant Item::*member, const Table<Kind>& settings) {
  Table<Item> out;
  for (const Row<Kind>& row : settings) {
    Row<Item> r;
    static_cast<About&>(r) = row;
    r.get = [member, get = row.get](const Item& i) { return get(std::get<Kind>(i.*member)); };
    r.set = [member, set = row.set](Item& i, const Value& v) { set(std::get<Kind>(i.*member), v); };
    if (row.applies)
      r.applies = [member, applies = row.applies](const Item& i) {
        return applies(std::get<Kind>(i.*member));
      };
    if (row.fits)
      r.fits = [member, fits = row.fits](const Shot& s, const Item& i) {
        return fits(s, std::get<Kind>(i.*member));
      };
    out.push_back(std::move(r));
  }
  return out;
}

/// Removes the tracks of settings that an item does not have, after a change of its kind.
template <class Item>
void drop_lost_tracks(Item& item, const Table<Item>& settings) {
  std::erase_if(item.tracks, [&](const auto& track) {
    return std::none_of(settings.begin(), settings.end(),
                        [&](const Row<Item>& row) { return track.first == row.key; });
  });
}

/// Accepted range and range of the slider, SI.
struct Range {
  double low, high, slider_low, slider_high;
};

/// Builds a table. Calls chained to add() modify the row that it added.
template <class T>
class TableOf {
 public:
  /// Sets what the following rows touch.
  TableOf& touching(Touches t) {
    touches_ = t;
    return *this;
  }
  template <class M>
  TableOf& add(M T::*member, const char* key, const char* name, const char* help) {
    start(key, name, help);
    rows_.back().get = [member](const T& t) -> Value { return t.*member; };
    rows_.back().set = [member](T& t, const Value& v) { t.*member = std::get<M>(v); };
    if constexpr (std::is_same_v<M, Color>) rows_.back().high = brightest;
    return *this;
  }
  template <class M>
  TableOf& add(M T::*member, const char* key, const char* name, Unit unit, const Range& r, const char* help) {
    add(member, key, name, help);
    measure(unit, r);
    return *this;
  }
  template <class E>
  TableOf& add(E T::*member, std::span<const Option> options, const char* key, const char* name,
               const char* help) {
    start(key, name, help);
    rows_.back().options = options;
    rows_.back().get = [member](const T& t) -> Value { return Choice{int(t.*member)}; };
    rows_.back().set = [member](T& t, const Value& v) { t.*member = E(std::get<Choice>(v).index); };
    return *this;
  }
  /// A setting that is not a member, with a value of type V through functions.
  template <class V>
  TableOf& add(const char* key, const char* name, const char* help, V (*get)(const T&),
               void (*set)(T&, const V&)) {
    start(key, name, help);
    rows_.back().get = [get](const T& t) -> Value { return get(t); };
    rows_.back().set = [set](T& t, const Value& v) { set(t, std::get<V>(v)); };
    return *this;
  }
  template <class V>
  TableOf& add(const char* key, const char* name, Unit unit, const Range& r, const char* help,
               V (*get)(const T&), void (*set)(T&, const V&)) {
    add<V>(key, name, help, get, set);
    measure(unit, r);
    return *this;
  }
  /// The key that older files and command lines use.
  TableOf& formerly(const char* key) {
    rows_.back().formerly = key;
    return *this;
  }
  TableOf& where(bool (*applies)(const T&)) {
    rows_.back().applies = applies;
    return *this;
  }
  TableOf& in_shot(bool (*fits)(const Shot&, const T&)) {
    rows_.back().fits = fits;
    return *this;
  }
  TableOf& zero(const char* word) {
    rows_.back().zero = word;
    return *this;
  }
  /// A word for 0 that stands for another number, with which neighbouring keys interpolate.
  TableOf& zero(const char* word, double (*stands_for)(const Shot&, const T&)) {
    rows_.back().stands_for = stands_for;
    return zero(word);
  }
  /// A word for 0 that is not a number and holds until the next key.
  TableOf& zero_holding(const char* word) {
    rows_.back().zero_holds = true;
    return zero(word);
  }
  TableOf& dimensions(int n) {
    rows_.back().dimensions = n;
    return *this;
  }
  /// Cannot be animated.
  TableOf& fixed() {
    rows_.back().fixed = true;
    return *this;
  }
  /// Shown in traced pictures only.
  TableOf& traced() {
    rows_.back().traced = true;
    return *this;
  }
  /// Labels for no and yes.
  TableOf& words(std::span<const Option> no_and_yes) {
    rows_.back().options = no_and_yes;
    return *this;
  }
  TableOf& more() {
    rows_.back().depth = Depth::more;
    return *this;
  }
  /// All rows so far.
  Table<T>& rows() { return rows_; }
  Table<T> done() { return std::move(rows_); }

 private:
  static constexpr double brightest = 100;  // of a colour, linear
  void start(const char* key, const char* name, const char* help) {
    rows_.emplace_back();
    About& s = rows_.back();
    s.key = key, s.name = name, s.help = help, s.touches = touches_;
  }
  void measure(Unit unit, const Range& r) {
    About& s = rows_.back();
    s.unit = unit, s.low = r.low, s.high = r.high, s.slider_low = r.slider_low, s.slider_high = r.slider_high;
  }
  Table<T> rows_;
  Touches touches_ = Touches::flow;
};

}  // namespace pour
