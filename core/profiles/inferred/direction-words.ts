/** Words, signs and short forms by which programs say whether a message came in or went out. */
const INWARD =
  /^(in|incoming|inbound|received|receive|recv|rcvd|inbox|i|r|from|rx|in_message|other|remote|them|their|theirs|peer|mt|<|<-|<=|get|got)$/i;
const OUTWARD =
  /^(out|outgoing|outbound|sent|send|outbox|o|s|to|tx|out_message|self|me|mine|my|own|local|us|mo|>|->|=>)$/i;

/** The same in the languages in which programs write them. */
const INWARD_WORDS = wordsOf(
  `eingehend eingegangen empfangen erhalten eingang posteingang entrant entrante reçu reçue entrante recibido recibida
recebido recebida entrada ricevuto ricevuta inkomend ontvangen inkommande mottaget mottagen indgående modtaget innkommende
mottatt saapuva saapunut vastaanotettu przychodzące przychodząca odebrane odebrana příchozí přijato přijatá prichádzajúce
prijaté входящее входящий входящая входящие получено вхідне вхідний отримано εισερχόμενο εισερχόμενη ελήφθη gelen alınan
وارد واردة مستلم دریافتی נכנס נכנסת התקבל प्राप्त आने_वाला เข้า ได้รับ ขาเข้า đến đã_nhận nhận 接收 收到 已接收 收件箱 受信
수신 받음`
);
const OUTWARD_WORDS = wordsOf(
  `ausgehend gesendet verschickt ausgang postausgang sortant sortante envoyé envoyée saliente enviado enviada saída inviato
inviata uscente verzonden uitgaand verstuurd utgående skickat skickad udgående sendt utgående lähtevä lähetetty wychodzące
wychodząca wysłane wysłana odchozí odesláno odeslaná odchádzajúce odoslané исходящее исходящий исходящая исходящие отправлено
вихідне вихідний надіслано εξερχόμενο εξερχόμενη εστάλη giden gönderilen صادر صادرة مرسل ارسالی יוצא יוצאת נשלח भेजा
जाने_वाला ออก ส่ง ส่งแล้ว ขาออก đi đã_gửi gửi 发送 发出 已发送 发件箱 送信 발신 보냄`
);

function wordsOf(words: string): ReadonlySet<string> {
  return new Set(words.split(/\s+/).map(plain));
}

function plain(word: string): string {
  return word.trim().normalize('NFKC').toLowerCase().replace(/\s+/g, '_');
}

export function isInward(value: string): boolean {
  return INWARD.test(value) || INWARD_WORDS.has(plain(value));
}

export function isOutward(value: string): boolean {
  return OUTWARD.test(value) || OUTWARD_WORDS.has(plain(value));
}
