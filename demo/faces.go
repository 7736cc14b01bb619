package demo

// Illustrated faces of people who don't exist, before a sky of the festival.

// Mirembe Achen, who sews sails.
const mirembe = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 900 1100" width="900" height="1100">
  <rect width="900" height="1100" fill="#D98D1C"/>
  <path fill="#E9B45A" d="M0 0 H900 V420 C700 500 520 380 300 450 C180 490 80 460 0 500 Z"/>
  <path fill="#B4492B" d="M90 120 L190 60 L230 190 L140 230 Z"/><path fill="#F5F2EA" d="M90 120 L190 60 L140 230 Z" opacity=".5"/>
  <path fill="none" stroke="#F5F2EA" stroke-width="5" stroke-dasharray="16 12" d="M140 230 C200 330 90 420 170 540"/>
  <path fill="#2A1B18" d="M250 560 C190 250 330 150 470 160 C640 160 730 300 680 560 C720 640 700 760 640 800 L280 800 C220 740 220 640 250 560 Z"/>
  <path fill="#7A4A30" d="M385 700 H555 V880 C555 930 385 930 385 880 Z"/>
  <path fill="#1E5F6B" d="M110 1100 C120 920 260 860 385 850 C420 930 520 930 555 850 C680 860 800 920 810 1100 Z"/>
  <path fill="none" stroke="#F1E7D2" stroke-width="8" stroke-linecap="round" stroke-dasharray="22 16" d="M180 1090 C200 960 300 915 380 905 M760 1090 C740 960 640 915 560 905"/>
  <path fill="#8C5738" d="M290 470 C285 330 370 260 470 260 C570 260 655 330 650 470 C648 640 560 770 470 772 C380 770 294 640 290 470 Z"/>
  <path fill="#2A1B18" d="M285 450 C290 300 380 235 470 235 C560 235 650 300 655 450 C620 350 560 320 470 345 C390 318 320 352 285 450 Z"/>
  <path fill="none" stroke="#B4492B" stroke-width="44" stroke-linecap="round" d="M262 352 C350 210 590 210 678 352"/>
  <path fill="none" stroke="#F1E7D2" stroke-width="6" stroke-linecap="round" stroke-dasharray="18 14" d="M266 346 C352 216 588 216 674 346"/>
  <g fill="none" stroke="#2A1B18" stroke-linecap="round"><path stroke-width="13" d="M345 445 C370 425 405 425 425 440 M515 440 C535 425 570 425 595 445"/></g>
  <ellipse cx="388" cy="492" rx="23" ry="17" fill="#FFFDF6"/><ellipse cx="552" cy="492" rx="23" ry="17" fill="#FFFDF6"/>
  <circle cx="392" cy="492" r="14" fill="#2A1B18"/><circle cx="548" cy="492" r="14" fill="#2A1B18"/>
  <path fill="none" stroke="#6B3F28" stroke-width="10" stroke-linecap="round" d="M470 500 C462 550 448 580 452 596 C460 606 480 606 490 596"/>
  <path fill="#6F2A22" d="M398 655 C430 645 450 656 470 652 C490 656 510 645 542 655 C520 705 420 705 398 655 Z"/>
  <path fill="#FFFDF6" d="M420 661 C450 668 490 668 520 661 C505 676 435 676 420 661 Z"/>
  <circle cx="283" cy="590" r="17" fill="#D98D1C"/><circle cx="657" cy="590" r="17" fill="#D98D1C"/>
</svg>
`

// Teodor Vasile, who lays rope.
const teodor = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 900 1100" width="900" height="1100">
  <rect width="900" height="1100" fill="#7FA8B8"/>
  <path fill="#A9C7CF" d="M0 0 H900 V360 C720 430 560 330 380 400 C220 460 90 420 0 450 Z"/>
  <path fill="#2E6B4E" d="M720 90 L830 150 L790 290 L700 230 Z"/><path fill="#F5F2EA" d="M720 90 L830 150 L700 230 Z" opacity=".45"/>
  <path fill="none" stroke="#F5F2EA" stroke-width="5" stroke-dasharray="16 12" d="M745 260 C690 360 800 440 730 560"/>
  <path fill="#D9A887" d="M370 700 H540 V880 C540 940 370 940 370 880 Z"/>
  <path fill="#4C5F73" d="M90 1100 C100 930 240 870 370 860 C420 950 490 950 540 860 C670 870 800 930 810 1100 Z"/>
  <path fill="none" stroke="#B9821F" stroke-width="26" stroke-linecap="round" d="M330 872 C400 960 510 960 580 872"/>
  <path fill="none" stroke="#7B5514" stroke-width="5" stroke-dasharray="6 12" d="M330 872 C400 960 510 960 580 872"/>
  <path fill="#E6B899" d="M275 470 C270 320 350 240 455 240 C560 240 640 320 635 470 C632 650 550 780 455 782 C360 780 278 650 275 470 Z"/>
  <path fill="#8A8278" d="M275 560 C290 700 340 830 455 832 C570 830 620 700 635 560 C610 600 590 622 555 618 C520 600 480 604 455 622 C430 604 390 600 355 618 C320 622 300 600 275 560 Z"/>
  <path fill="#1C354A" d="M262 400 C240 200 350 140 455 140 C560 140 670 200 648 400 C600 330 540 312 455 312 C370 312 310 330 262 400 Z"/>
  <path fill="#16293A" d="M255 402 C340 330 570 330 655 402 L640 440 C560 380 350 380 270 440 Z"/>
  <circle cx="455" cy="140" r="26" fill="#B4492B"/>
  <g fill="none" stroke="#6B6459" stroke-linecap="round"><path stroke-width="15" d="M330 458 C355 440 395 440 415 455 M495 455 C515 440 555 440 580 458"/></g>
  <ellipse cx="373" cy="505" rx="22" ry="16" fill="#FFFDF6"/><ellipse cx="537" cy="505" rx="22" ry="16" fill="#FFFDF6"/>
  <circle cx="376" cy="505" r="13" fill="#35506A"/><circle cx="534" cy="505" r="13" fill="#35506A"/>
  <path fill="none" stroke="#B98767" stroke-width="11" stroke-linecap="round" d="M455 510 C446 560 430 588 436 604 C446 616 466 616 476 604"/>
  <path fill="none" stroke="#7A3B30" stroke-width="13" stroke-linecap="round" d="M405 680 C435 700 475 700 505 680"/>
</svg>
`
