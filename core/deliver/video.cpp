#include "deliver/video.h"

extern "C" {
#include <libavcodec/avcodec.h>
#include <libavformat/avformat.h>
#include <libavutil/imgutils.h>
#include <libavutil/opt.h>
#include <libswscale/swscale.h>
}

#include <memory>

#include "base/error.h"
#include "base/file.h"

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

}  // namespace

void write_video(const std::filesystem::path& file, int frames, int fps,
                 const std::function<Image(int)>& picture) {
  const auto check = [&](int result, const char* what) {
    if (result >= 0) return;
    char why[128];
    av_strerror(result, why, sizeof why);
    throw machine_fault(file.string(),
                        std::string("the video could not be written (") + what + ": " + why + ").",
                        "Free some space or choose another folder.");
  };
  av_log_set_level(AV_LOG_ERROR);
  const AVCodec* codec = avcodec_find_encoder_by_name("libx264");
  if (!codec) codec = avcodec_find_encoder(AV_CODEC_ID_H264);
  if (!codec)
    throw machine_fault("Video", "no H.264 encoder is installed.",
                        "Install the package libavcodec-extra, or deliver images.");
  Image first = picture(0);
  if (first.width % 2 || first.height % 2)
    throw shot_fault("Video",
                     "is " + std::to_string(first.width) + " × " + std::to_string(first.height) +
                         " pixels; H.264 needs even numbers.",
                     "Change film.width or film.height by one.");
  write_whole(file, [&](const std::filesystem::path& temporary) {
    AVFormatContext* raw = nullptr;
    check(avformat_alloc_output_context2(&raw, nullptr, "mp4", temporary.c_str()), "format");
    const Owned<AVFormatContext> out(raw);
    const Owned<AVCodecContext> encoder(avcodec_alloc_context3(codec));
    encoder->width = first.width, encoder->height = first.height;
    encoder->time_base = {1, fps}, encoder->framerate = {fps, 1};
    encoder->pix_fmt = AV_PIX_FMT_YUV420P;
    encoder->color_primaries = AVCOL_PRI_BT709, encoder->color_trc = AVCOL_TRC_BT709,
    encoder->colorspace = AVCOL_SPC_BT709;
    encoder->color_range = AVCOL_RANGE_MPEG;
    encoder->thread_count = 0;
    if (out->oformat->flags & AVFMT_GLOBALHEADER) encoder->flags |= AV_CODEC_FLAG_GLOBAL_HEADER;
    av_opt_set(encoder->priv_data, "preset", "medium", 0);
    av_opt_set(encoder->priv_data, "crf", "16", 0);
    check(avcodec_open2(encoder.get(), codec, nullptr), "encoder");
    AVStream* stream = avformat_new_stream(out.get(), nullptr);
    stream->time_base = encoder->time_base, stream->avg_frame_rate = encoder->framerate;
    check(avcodec_parameters_from_context(stream->codecpar, encoder.get()), "stream");
    check(avio_open(&out->pb, temporary.c_str(), AVIO_FLAG_WRITE), "file");
    AVDictionary* options = nullptr;
    av_dict_set(&options, "movflags", "faststart", 0);
    const int header = avformat_write_header(out.get(), &options);
    av_dict_free(&options);
    check(header, "header");
    const Owned<SwsContext> scale(sws_getContext(
        first.width, first.height, AV_PIX_FMT_RGB24, first.width, first.height, AV_PIX_FMT_YUV420P,
        SWS_BICUBIC | SWS_ACCURATE_RND | SWS_FULL_CHR_H_INT, nullptr, nullptr, nullptr));
    sws_setColorspaceDetails(scale.get(), sws_getCoefficients(SWS_CS_ITU709), 1,
                             sws_getCoefficients(SWS_CS_ITU709), 0, 0, 1 << 16, 1 << 16);
    const Owned<AVFrame> frame(av_frame_alloc());
    frame->format = encoder->pix_fmt, frame->width = first.width, frame->height = first.height;
    check(av_frame_get_buffer(frame.get(), 0), "memory");
    const Owned<AVPacket> packet(av_packet_alloc());
    const auto drain = [&](const AVFrame* f) {
      check(avcodec_send_frame(encoder.get(), f), "encoding");
      for (;;) {
        const int got = avcodec_receive_packet(encoder.get(), packet.get());
        if (got == AVERROR(EAGAIN) || got == AVERROR_EOF) return;
        check(got, "encoding");
        av_packet_rescale_ts(packet.get(), encoder->time_base, stream->time_base);
        packet->stream_index = stream->index;
        check(av_interleaved_write_frame(out.get(), packet.get()), "writing");
      }
    };
    for (int i = 0; i < frames; ++i) {
      const std::vector<uint8_t> bytes = display_bytes(i ? picture(i) : first);
      check(av_frame_make_writable(frame.get()), "memory");
      const uint8_t* source[1] = {bytes.data()};
      const int pitch[1] = {first.width * 3};
      sws_scale(scale.get(), source, pitch, 0, first.height, frame->data, frame->linesize);
      frame->pts = i;
      drain(frame.get());
    }
    drain(nullptr);
    check(av_write_trailer(out.get()), "trailer");
    check(out->pb->error, "writing");
  });
}

}  // namespace pour
