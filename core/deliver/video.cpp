#include "deliver/video.h"

extern "C" {
#include <libavcodec/avcodec.h>
#include <libavformat/avformat.h>
#include <libavutil/imgutils.h>
#include <libavutil/opt.h>
#include <libswscale/swscale.h>
}

#include <memory>
#include <vector>

#include "base/error.h"
#include "base/file.h"
#include "base/text.h"

namespace pour {
namespace {

struct Closer {
  void operator()(AVFormatContext* c) const {
    if (c->pb) avio_closep(&c->pb);
    avformat_free_context(c);
  }
  void operator()(AVCodecContext* c) const { avcodec_free_context(&c); }
  void operator()(AVFrame* f) const { av_frame_free(&f); }
  void operator()(AVPacket* p) const { av_packet_free(&p); }
  void operator()(SwsContext* s) const { sws_freeContext(s); }
};
template <class T>
using Owned = std::unique_ptr<T, Closer>;

/// The format of a suffix.
struct Kind {
  const char *suffix, *container, *encoder, *name, *package;
  AVPixelFormat format, with_alpha;  // the second is none where it has no alpha
  std::vector<std::pair<const char*, const char*>> options, options_with_alpha;
  bool deep = false;  // takes sixteen bits
};

const Kind& kind_of(const std::filesystem::path& file) {
  static const Kind all[] = {
      {".mp4",
       "mp4",
       "libx264",
       "H.264",
       "libavcodec-extra",
       AV_PIX_FMT_YUV420P,
       AV_PIX_FMT_NONE,
       // x264's AVX-512 code for macroblock trees gives other bytes each time, where a width or height is not
       // a multiple of its blocks. Up to AVX2 the bytes are the same on every machine, as fast.
       {{"preset", "medium"}, {"crf", "16"}, {"x264-params", "asm=avx2"}},
       {}},
      {".mov",
       "mov",
       "prores_ks",
       "ProRes",
       "libavcodec-extra",
       AV_PIX_FMT_YUV422P10LE,
       AV_PIX_FMT_YUVA444P10LE,
       {{"profile", "hq"}},
       {{"profile", "4444"}, {"alpha_bits", "16"}},
       true},
      {".webm",
       "webm",
       "libvpx-vp9",
       "VP9",
       "libavcodec-extra",
       AV_PIX_FMT_YUV420P,
       AV_PIX_FMT_YUVA420P,
       {{"crf", "18"}, {"deadline", "good"}, {"cpu-used", "4"}, {"row-mt", "1"}},
       {{"crf", "18"}, {"deadline", "good"}, {"cpu-used", "4"}, {"auto-alt-ref", "0"}}}};
  for (const Kind& k : all)
    if (file.extension() == k.suffix) return k;
  throw shot_fault(file.string(), "has no suffix of a video.", "Name it .mp4, .mov or .webm.");
}

/// Of the encoder: with another number of them it makes other bytes.
constexpr int threads = 4;

}  // namespace

bool keeps_alpha(const std::filesystem::path& file) { return kind_of(file).with_alpha != AV_PIX_FMT_NONE; }

void write_video(const std::filesystem::path& file, const VideoFormat& format,
                 const std::function<Words(int)>& picture) {
  const auto check = [&](int result) {
    if (result >= 0) return;
    if (result == AVERROR(ENOMEM)) throw std::bad_alloc();
    throw file_fault(file, "could not be written", AVUNERROR(result));
  };
  av_log_set_level(AV_LOG_QUIET);  // what went wrong is said below
  const Kind& kind = kind_of(file);
  const AVCodec* codec = avcodec_find_encoder_by_name(kind.encoder);
  if (!codec)
    throw machine_fault(
        "Video", filled("no encoder of {name} is installed.", {{"name", kind.name}}),
        filled("Install the package {package}, or deliver images.", {{"package", kind.package}}));
  const bool alpha = format.alpha && kind.with_alpha != AV_PIX_FMT_NONE;
  const AVPixelFormat into = alpha ? kind.with_alpha : kind.format;
  const int width = format.width, height = format.height;
  if (width % 2 || height % 2)
    throw shot_fault(
        "Video",
        filled("is {width} × {height} pixels; {name} needs even numbers.",
               {{"width", std::to_string(width)}, {"height", std::to_string(height)}, {"name", kind.name}}),
        "Change film.width or film.height by one.");
  write_whole(file, [&](const std::filesystem::path& temporary) {
    // With the protocol said, nothing in the name can be taken for one.
    const std::string url = "file:" + temporary.string();
    AVFormatContext* raw = nullptr;
    check(avformat_alloc_output_context2(&raw, nullptr, kind.container, url.c_str()));
    const Owned<AVFormatContext> out(raw);
    const Owned<AVCodecContext> encoder(avcodec_alloc_context3(codec));
    encoder->width = width, encoder->height = height;
    encoder->time_base = {format.rate.den, format.rate.num};
    encoder->framerate = {format.rate.num, format.rate.den};
    encoder->pix_fmt = into;
    encoder->color_primaries = AVCOL_PRI_BT709, encoder->color_trc = AVCOL_TRC_BT709,
    encoder->colorspace = AVCOL_SPC_BT709;
    encoder->color_range = AVCOL_RANGE_MPEG;
    encoder->thread_count = threads;
    // Neither the time nor the machine is told.
    encoder->flags |= AV_CODEC_FLAG_BITEXACT;
    out->flags |= AVFMT_FLAG_BITEXACT;
    if (out->oformat->flags & AVFMT_GLOBALHEADER) encoder->flags |= AV_CODEC_FLAG_GLOBAL_HEADER;
    for (const auto& [key, value] : alpha ? kind.options_with_alpha : kind.options)
      av_opt_set(encoder->priv_data, key, value, 0);
    if (avcodec_open2(encoder.get(), codec, nullptr) < 0)
      throw shot_fault(
          "Video",
          filled("can't be {width} × {height} pixels in {name} here.",
                 {{"width", std::to_string(width)}, {"height", std::to_string(height)}, {"name", kind.name}}),
          "Choose a smaller picture, or deliver images.");
    AVStream* stream = avformat_new_stream(out.get(), nullptr);
    stream->time_base = encoder->time_base, stream->avg_frame_rate = encoder->framerate;
    if (alpha) av_dict_set(&stream->metadata, "alpha_mode", "1", 0);
    check(avcodec_parameters_from_context(stream->codecpar, encoder.get()));
    check(avio_open(&out->pb, url.c_str(), AVIO_FLAG_WRITE));
    AVDictionary* options = nullptr;
    av_dict_set(&options, "movflags", "faststart", 0);
    const int header = avformat_write_header(out.get(), &options);
    av_dict_free(&options);
    check(header);
    const AVPixelFormat from = kind.deep ? (alpha ? AV_PIX_FMT_RGBA64LE : AV_PIX_FMT_RGB48LE)
                                         : (alpha ? AV_PIX_FMT_RGBA : AV_PIX_FMT_RGB24);
    const Owned<SwsContext> scale(sws_getContext(width, height, from, width, height, into,
                                                 SWS_BICUBIC | SWS_ACCURATE_RND | SWS_FULL_CHR_H_INT, nullptr,
                                                 nullptr, nullptr));
    sws_setColorspaceDetails(scale.get(), sws_getCoefficients(SWS_CS_ITU709), 1,
                             sws_getCoefficients(SWS_CS_ITU709), 0, 0, 1 << 16, 1 << 16);
    const Owned<AVFrame> frame(av_frame_alloc());
    frame->format = encoder->pix_fmt, frame->width = width, frame->height = height;
    frame->color_primaries = encoder->color_primaries, frame->color_trc = encoder->color_trc;
    frame->colorspace = encoder->colorspace, frame->color_range = encoder->color_range;
    check(av_frame_get_buffer(frame.get(), 0));
    const Owned<AVPacket> packet(av_packet_alloc());
    const auto drain = [&](const AVFrame* f) {
      check(avcodec_send_frame(encoder.get(), f));
      for (;;) {
        const int got = avcodec_receive_packet(encoder.get(), packet.get());
        if (got == AVERROR(EAGAIN) || got == AVERROR_EOF) return;
        check(got);
        av_packet_rescale_ts(packet.get(), encoder->time_base, stream->time_base);
        packet->stream_index = stream->index;
        check(av_interleaved_write_frame(out.get(), packet.get()));
        check(out->pb->error);
      }
    };
    for (int i = 0; i < format.frames; ++i) {
      const Words words = picture(i);
      const std::vector<uint8_t> bytes = kind.deep ? std::vector<uint8_t>() : bytes_of(words);
      check(av_frame_make_writable(frame.get()));
      const uint8_t* source[1] = {kind.deep ? reinterpret_cast<const uint8_t*>(words.values.data())
                                            : bytes.data()};
      const int pitch[1] = {width * (alpha ? 4 : 3) * (kind.deep ? 2 : 1)};
      sws_scale(scale.get(), source, pitch, 0, height, frame->data, frame->linesize);
      frame->pts = i;
      drain(frame.get());
    }
    drain(nullptr);
    check(av_write_trailer(out.get()));
    avio_flush(out->pb);
    check(out->pb->error);
    check(avio_closep(&out->pb));
  });
}

}  // namespace pour
