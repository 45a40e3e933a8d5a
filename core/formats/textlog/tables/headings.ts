/**
 * Headings of sheets in the languages in which programs write them, by the
 * name under which the rest of the reading knows such a column. A heading that
 * is not listed keeps its own letters.
 */
const HEADINGS: Record<string, string> = {
  date: 'datum fecha data dato päivämäärä dátum datum_i_čas дата дата_и_время ημερομηνία tarih التاريخ تاريخ תאריך दिनांक तारीख วันที่ ngày 日期 日時 日付 날짜 일시 日付時刻',
  time: 'uhrzeit zeit heure hora ora tijd tid klokkeslæt klokkeslett aika godzina czas čas время час ώρα saat الوقت وقت زمان שעה समय เวลา giờ thời_gian 时间 時間 時刻 시간 시각',
  timestamp: 'zeitstempel horodatage zeitpunkt 时间戳 タイムスタンプ',
  sender:
    'absender expéditeur expediteur remitente remetente mittente afzender avsändare afsender avsender lähettäjä nadawca odesílatel odosielateľ отправитель відправник αποστολέας gönderen المرسل مرسل فرستنده שולח प्रेषक ผู้ส่ง người_gửi 发件人 发送人 发送者 寄件者 送信者 差出人 보낸사람 보낸_사람 발신자',
  from: 'von de da van från fra od от від από kimden من מאת से จาก từ 从',
  recipient:
    'empfänger destinataire destinatario destinatário ontvanger mottagare modtager mottaker vastaanottaja odbiorca příjemce príjemca получатель одержувач παραλήπτης alıcı alan المستلم مستلم المستقبل گیرنده נמען प्राप्तकर्ता ผู้รับ người_nhận 收件人 接收人 接收者 受信者 宛先 받는사람 받는_사람 수신자',
  to: 'an à a aan till til do кому до προς kime إلى אל को ถึง đến 到',
  message:
    'nachricht mitteilung message mensaje mensagem messaggio bericht meddelande besked melding viesti wiadomość zpráva správa сообщение повідомлення μήνυμα mesaj ileti الرسالة رسالة پیام הודעה संदेश ข้อความ tin_nhắn nội_dung 消息 信息 短信 訊息 メッセージ 메시지 내용',
  text: 'texte texto testo tekst teksti text текст κείμενο metin النص نص متن טקסט पाठ 文本 正文 本文 内容 內容 テキスト 본문',
  direction:
    'richtung sens sentido dirección direção direzione richting riktning retning suunta kierunek směr smer направление напрямок κατεύθυνση yön الاتجاه اتجاه כיוון दिशा ทิศทาง hướng 方向 送受信 방향',
  type: 'typ art tipo soort tyyppi rodzaj тип вид τύπος tür النوع نوع סוג प्रकार ประเภท loại 类型 類型 種類 種別 유형 종류',
  number:
    'nummer rufnummer telefonnummer numéro telephone téléphone número teléfono telefone numero telefono telefoonnummer numero numer telefon číslo номер телефон αριθμός τηλέφωνο numara الرقم رقم رقم_الهاتف شماره מספר טלפון नंबर หมายเลข số_điện_thoại 号码 號碼 电话 電話 電話番号 番号 전화번호 번호',
  name: 'nom nombre nome naam namn navn nimi imię nazwa jméno meno имя имʼя ім’я όνομα ad isim الاسم اسم نام שם नाम ชื่อ tên 姓名 名称 名前 氏名 이름',
  contact:
    'kontakt contacto contato contatto yhteystieto контакт επαφή kişi جهة_الاتصال איש_קשר संपर्क ผู้ติดต่อ liên_hệ 联系人 聯絡人 連絡先 연락처',
  conversation:
    'unterhaltung gespräch konversation chat conversación conversa conversazione gesprek samtal samtale keskustelu rozmowa konverzace konverzácia чат беседа диалог розмова συνομιλία sohbet المحادثة محادثة گفتگو שיחה बातचीत การสนทนา cuộc_trò_chuyện 会话 對話 对话 会話 トーク 대화 채팅방',
  status:
    'zustand statut estado stato stav статус состояние κατάσταση durum الحالة وضعیت מצב स्थिति สถานะ trạng_thái 状态 狀態 状態 상태',
  attachment:
    'anhang pièce_jointe adjunto anexo allegato bijlage bilaga vedhæftning vedlegg liite załącznik příloha príloha вложение вкладення συνημμένο ek مرفق پیوست קובץ_מצורף अनुलग्नक ไฟล์แนบ tệp_đính_kèm 附件 添付 添付ファイル 첨부 첨부파일'
};

const KNOWN = new Map(
  Object.entries(HEADINGS).flatMap(([name, words]) =>
    words.split(' ').map((word): [string, string] => [plain(word), name])
  )
);

function plain(heading: string): string {
  return heading
    .normalize('NFKC')
    .toLowerCase()
    .replace(/[^\p{L}\p{M}\p{N}]+/gu, '_')
    .replace(/^_+|_+$/g, '');
}

/** How many headings say plainly what stands below them. */
export function plainHeadings(headings: readonly string[]): number {
  return columnNames(headings).filter((name) => Object.hasOwn(HEADINGS, name)).length;
}

/** Names for the columns of a sheet, each only once. */
export function columnNames(headings: readonly string[]): string[] {
  const used = new Map<string, number>();
  return headings.map((heading, i) => {
    const own = plain(heading) || `column${i + 1}`;
    const name = KNOWN.get(own) ?? own;
    const times = (used.get(name) ?? 0) + 1;
    used.set(name, times);
    return times === 1 ? name : `${name}_${times}`;
  });
}
