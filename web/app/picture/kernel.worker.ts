/// <reference lib="webworker" />
import { runThread, type ToThread } from '../../../core/kernel/thread';

/** A render thread in the browser; it is driven through the port that it is given first. */
addEventListener('message', ({ data }: MessageEvent<MessagePort>) => {
  runThread({
    post: (message) => {
      data.postMessage(message);
    },
    listen: (handler) => {
      data.onmessage = (event: MessageEvent<ToThread>) => {
        handler(event.data);
      };
    },
  });
});
