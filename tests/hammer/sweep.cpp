// Settings at their limits, pictures of impossible light, and files that are valid but far too much.
#include <OpenImageIO/imageio.h>

#include <chrono>
#include <cmath>
#include <limits>

#include "base/error.h"
#include "check/checks.h"
#include "deliver/deliver.h"
#include "hammer.h"
#include "run/simulate.h"
#include "shot/animate.h"
#include "shot/arrival.h"
#include "shot/assign.h"
#include "shot/describe.h"
#include "shot/edit.h"
#include "shot/recipes.h"
#include "shot/shot_file.h"

namespace hammer {

using namespace pour;

namespace {

/// Says no after so many seconds, as whoever waits for something would.
std::function<bool()> for_a_while(double seconds) {
  const auto start = std::chrono::steady_clock::now();
  return [=] {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count() < seconds;
  };
}

/// Small shots that between them have every setting.
std::vector<Shot> swept() {
  Shot smoke = small_shot(3), liquid = find_recipe("tea-into-a-bowl").make();
  for (int k = 0; k < int(kinds().size()); ++k)
    if (const std::string kind = kinds()[size_t(k)].key; kind != "model" && kind != "lettering")
      (void)add_new_piece(smoke, k, {});
  liquid.run.detail = Detail::custom, liquid.run.cell_size = 0.009, liquid.film.frames = 3;
  for (Shot* s : {&smoke, &liquid}) {
    s->film.width = 64, s->film.height = 36;
    // Forces of each kind, each with another reach.
    for (int k = 0; k < int(force_kinds().size()); ++k) {
      (void)add_new_force(*s, k, {});
      s->forces.back().reach = Reach::Shape(k % int(Reach::Shape::piece));
      s->forces.back().inside = true;
    }
  }
  return {smoke, liquid};
}

bool has_limits(const Setting& s) {
  return std::holds_alternative<double>(s.value) || std::holds_alternative<Vec3d>(s.value) ||
         std::holds_alternative<int>(s.value);
}

Value all_parts(const Value& like, double v) {
  if (std::holds_alternative<int>(like)) return int(std::clamp(v, -2e9, 2e9));
  if (std::holds_alternative<Vec3d>(like)) return Vec3d{v, v, v};
  return v;
}

void must_be_light(const Image& image) {
  for (const float v : image.rgb) must(std::isfinite(v) && v >= 0, "light that is negative or endless");
}

/// Runs a few frames of it, as far as they come in time, and looks at the last one.
void run_and_look(const Shot& shot, const fs::path& folder) {
  save_shot(shot, folder / "a.pour");
  pour::Run run = create_run(folder / "a.pour", shot, {1, std::min(3, shot.film.frames)});
  const auto in_time = for_a_while(6);
  simulate(run, {.stop = [&] { return !in_time(); }});
  for (const FrameRecord& r : run.frames)
    for (const FlowRecord& f : r.flows)
      must(std::isfinite(f.kinetic_energy) && std::isfinite(f.ledger.in_shot), "a run that blew up goes on");
  if (!run.newest_frame()) return;
  DeliverOptions o = options_of(shot, {run.newest_frame(), run.newest_frame()});
  const Photographer photographer(run, shot);
  o.width = 32, o.height = 18, o.samples = 0, o.stills = Stills::png, o.keep_going = for_a_while(6);
  must_be_light(photographer.take(run.newest_frame(), o).image);
  o.samples = 1;
  must_be_light(photographer.take(run.newest_frame(), o).image);
}

}  // namespace

Try extremes(const fs::path&) {
  struct Edge {
    size_t shot;
    std::string path;
    bool high, beyond, key;
  };
  auto shots = std::make_shared<std::vector<Shot>>(swept());
  auto all = std::make_shared<std::vector<Edge>>();
  for (size_t n = 0; n < shots->size(); ++n)
    for (const std::string& path : setting_paths((*shots)[n])) {
      const Setting s = find_setting((*shots)[n], path);
      if (!has_limits(s) || s.track) continue;
      for (const bool high : {false, true})
        for (const bool beyond : {false, true})
          for (const bool key : {false, true})
            if (!key || s.can_animate()) all->push_back({n, path, high, beyond, key});
    }
  return [shots, all](Luck& luck, const fs::path& folder) {
    // In an order in which a few tries already come by all kinds of settings; as many as there are edges see
    // all.
    constexpr size_t stride = 7919;
    const Edge& e = (*all)[size_t(luck.number()) * stride % all->size()];
    Shot shot = (*shots)[e.shot];
    const Setting s = find_setting(shot, e.path);
    const double limit = e.high ? s.high : s.low;
    const double hair = limit == 0 ? 1e-12 : 1e-9 * std::abs(limit);
    const double v = e.beyond ? limit + (e.high ? 0.9 : -0.9) * hair : limit;
    try {
      if (e.key)
        start_animating(shot, e.path, 1), change_value(shot, e.path, all_parts(s.value, v), 3);
      else
        change_value(shot, e.path, all_parts(s.value, v), 1);
      const Shot again = shot_from_json(shot_to_json(shot), "a.pour");
      must(again == shot && again.out_of_range.empty(), e.path + " is not read back as it was written");
      (void)check_shot(shot, folder);
      run_and_look(shot, folder);
      return Held::accepted;
    } catch (const Fault& f) {
      must_explain(f);
      return Held::refused;
    }
  };
}

Try odd_pictures(const fs::path& common) {
  if (!is_there(common / "made")) {
    Shot shot = small_shot(2);
    save_shot(shot, common / "a.pour");
    must(tell({"run", "a.pour"}, common).code == 0, "the run to look at can't be made");
    write_whole(common / "made", "");
  }
  return [common](Luck& luck, const fs::path& folder) {
    fs::copy_file(common / "a.pour", folder / "a.pour");
    fs::copy(common / "a.runs", folder / "a.runs", fs::copy_options::recursive);
    // Channels and values at random, some of them none that light can have.
    static const std::vector<std::vector<std::string>> kinds{
        {"R", "G", "B"}, {"R", "G", "B", "A"}, {"Y"}, {"Z"}, {"Z", "R", "G", "B"}, {"normal.X", "normal.Y"}};
    constexpr float endless = std::numeric_limits<float>::infinity(),
                    none = std::numeric_limits<float>::quiet_NaN();
    static const std::vector<float> odd{-1e6f,    -1,   1e30f, 65504, 65505, endless,
                                        -endless, none, 0,     0.5f,  1e-30f};
    const auto& channels = luck.of(kinds);
    OIIO::ImageSpec spec(1 + int(luck.below(9)), 1 + int(luck.below(5)), int(channels.size()),
                         OIIO::TypeDesc::FLOAT);
    spec.channelnames = channels;
    spec.alpha_channel = channels.size() == 4 && channels[3] == "A" ? 3 : -1;
    std::vector<float> values;
    for (int i = 0; i < spec.width * spec.height * spec.nchannels; ++i) values.push_back(luck.of(odd));
    const fs::path file = folder / "odd.exr";
    const auto out = OIIO::ImageOutput::create(file.string());
    must(out && out->open(file.string(), spec) && out->write_image(OIIO::TypeDesc::FLOAT, values.data()) &&
             out->close(),
         "the picture can't be made");
    Shot shot = load_shot(folder / "a.pour");
    const bool has_colours = channels[0] == "R" || channels[0] == "Y" || channels.size() == 4;
    try {
      switch (luck.below(3)) {
        case 0:
          assign(shot, "look.backdrop_picture=" + file.string()), assign(shot, "look.backdrop=picture");
          break;
        case 1:
          assign(shot, "lights.room.picture=" + file.string()), assign(shot, "lights.room.room=picture");
          break;
        default:
          assign(shot, "pieces.word.holds=no"), assign(shot, "pieces.word.label=" + file.string());
      }
    } catch (const Fault& f) {
      must_explain(f);
      must(!has_colours, std::string("a picture is refused: ") + f.what());
      return Held::refused;
    }
    must(has_colours, "a picture without colours is taken");
    must(shot_from_json(shot_to_json(shot), "a.pour") == shot,
         "a shot that is not read back as it was written");
    const pour::Run run = load_run(folder / "a.runs/001");
    DeliverOptions o = options_of(shot, {2, 2});
    o.width = 32, o.height = 18, o.samples = 2, o.stills = Stills::passes;
    must(deliver_images(run, shot, folder / "out", o), "a picture is not made");
    for (const auto& [name, bytes] : contents(folder / "out", ".exr")) {
      const auto in = OIIO::ImageInput::open((folder / "out" / name).string());
      must(in != nullptr, "a picture can't be read");
      std::vector<float> light(size_t(in->spec().width) * size_t(in->spec().height) *
                               size_t(in->spec().nchannels));
      must(in->read_image(0, 0, 0, -1, OIIO::TypeDesc::FLOAT, light.data()), "a picture can't be read");
      for (size_t i = 0; i < light.size(); ++i) {
        const std::string& c = in->spec().channelnames[i % size_t(in->spec().nchannels)];
        const bool is_light =
            c == "R" || c == "G" || c == "B" || c.starts_with("light.") || c.starts_with("backdrop");
        if (is_light) must(std::isfinite(light[i]) && light[i] >= 0, c + " is negative or endless");
      }
    }
    return Held::accepted;
  };
}

Try dense_files(const fs::path&) {
  return [](Luck& luck, const fs::path& folder) {
    std::string text, name;
    const auto number = [&](double low, double high) { return std::to_string(luck.between(low, high)); };
    const size_t many = 200 << luck.below(8);  // up to 25,600
    switch (luck.below(5)) {
      case 0:
        name = "circles.svg";
        for (size_t i = 0; i < many; ++i)
          text += "<circle cx=\"" + number(0, 1000) + "\" cy=\"" + number(0, 1000) + "\" r=\"" +
                  number(1, 60) + "\"/>";
        break;
      case 1:
        name = "lines.svg";
        text = "<path fill=\"none\" stroke=\"#000\" stroke-width=\"2\" d=\"";
        for (size_t i = 0; i < many; ++i)
          text +=
              "M" + number(0, 1000) + " " + number(0, 1000) + "L" + number(0, 1000) + " " + number(0, 1000);
        text += "\"/>";
        break;
      case 2:
        name = "groups.obj";
        for (size_t g = 0; g < many; ++g) {
          const std::string x = std::to_string(g % 150), y = std::to_string(g / 150);
          text += "g p" + std::to_string(g) + "\nv " + x + " " + y + " 0\nv " + x + ".5 " + y + " 0\nv " + x +
                  " " + y + ".5 0\nv " + x + " " + y +
                  " 0.5\nf -4 -2 -3\nf -4 -3 -1\nf -3 -2 -1\nf -4 -1 -2\n";
        }
        break;
      case 3:
        name = "equal.obj";
        text = "v 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 1\n";
        for (size_t i = 0; i < 2 * many; ++i) text += luck.one_in(2) ? "f 1 2 3\n" : "f 1 3 2\n";
        break;
      default:
        name = "fan.obj";  // all faces share a point
        text = "v 0 0 0\n";
        for (size_t i = 0; i < many; ++i)
          text += "v " + number(-1, 1) + " " + number(-1, 1) + " " + number(0, 1) + "\n" +
                  (i ? "f 1 " + std::to_string(i + 1) + " " + std::to_string(i + 2) + "\n" : "");
    }
    if (name.ends_with(".svg"))
      text = "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 1000 1000\">" + text + "</svg>";
    write_whole(folder / name, text);
    save_shot(small_shot(2), folder / "a.pour");
    Limits limits;
    limits.seconds = 50;
    const Told told = tell({"import", "a.pour", name}, folder, limits);
    must_be_polite(told, "import " + name);
    if (told.code) return Held::refused;
    const Told checked = tell({"check", "a.pour"}, folder, limits);
    must_be_polite(checked, "check with " + name);
    return Held::accepted;
  };
}

}  // namespace hammer
