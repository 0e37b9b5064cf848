/**
 * Thirteen pictures of 48 × 48 as an H.264 byte stream with a pyramid of B-frames, as an encoder
 * program writes it.
 */
export const AVC_STREAM = Uint8Array.from(
  atob(
    [
      'AAAAAWdkAAqsViTehAAAAwAEAAADAMo8SJYmAAAAAWjojg5LIsAAAAABZYiCADP/8OSqhqnHfApkw2HXsQ87dBMP',
      'ac3R/kn2HsvAp1VkYDf93ruM6fYlm4cAAAFBmhI2Iz/0QZLAZnsvm3Y40MNRT3LCvF4guJPszaNBvL1h4qtpsAAA',
      'AUGeIRxCH/3n42UhMI6Orj6hAAABAZ4wuiEvxoAAAAEBnjG1IU/IgQAAAUGaNCTUEC0TKYEd//MmYZPLlGw2p+iR',
      'ZWi7ev+YVSSWVo6aQyHBAAABQZ5DNxHf/UOVVmyZdy38+8mGLN5NAAABAZ5StohL/8aBAAABAZ5TskhT//PL+iwA',
      'AAFBmlYm1BAtrRMpgBCn+py8IGKg3NdnjXrFlwlBwSbl6oj+8LeAAAABQZ5lMsR3/UbW+rcU8/it3wAAAQGedLKi',
      'FP/zQcWKgAAAAQGedbNIS//GgA==',
    ].join(''),
  ),
  (letter) => letter.charCodeAt(0),
)
/** When each of them is shown, in order of decoding: as the encoder's own container says. */
export const AVC_SHOWN = [0, 4, 2, 1, 3, 8, 6, 5, 7, 12, 10, 9, 11]
