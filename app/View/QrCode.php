<?php

namespace App\View;

/** A QR code (ISO/IEC 18004) as SVG. */
final class QrCode
{
    /** Modules left white around it (ISO/IEC 18004, section 5.3.8; value from memory). */
    private const QUIET = 4;

    public static function svg(string $text): string
    {
        $rows = (new \TCPDF2DBarcode($text, 'QRCODE,M'))->getBarcodeArray()['bcode'];
        $path = '';
        foreach ($rows as $y => $row) {
            foreach ($row as $x => $isDark) {
                $path .= $isDark ? 'M'.($x + self::QUIET).' '.($y + self::QUIET).'h1v1h-1z' : '';
            }
        }
        $size = count($rows) + 2 * self::QUIET;

        return "<svg xmlns=\"http://www.w3.org/2000/svg\" class=\"qr\" viewBox=\"0 0 $size $size\" role=\"img\" "
            .'aria-label="The same as the key below, for a camera" shape-rendering="crispEdges">'
            ."<rect width=\"$size\" height=\"$size\" fill=\"#fff\"/><path d=\"$path\" fill=\"#000\"/></svg>";
    }
}
