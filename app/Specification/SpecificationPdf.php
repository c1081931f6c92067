<?php

namespace App\Specification;

use TCPDF;

/** The specification as PDF, with page numbers and its version on every page. */
final class SpecificationPdf
{
    public static function of(Specification $specification): string
    {
        $version = $specification->version();
        $pdf = new class('P', 'mm', 'A4', true, 'UTF-8') extends TCPDF
        {
            public string $foot = '';

            /** @param  string  $msg */
            public function Error($msg): never
            {
                throw new \RuntimeException("The PDF cannot be made: $msg");
            }

            public function Footer(): void
            {
                $this->SetY(-13);
                $this->SetFont('dejavusans', '', 7);
                $this->Cell(
                    0,
                    8,
                    $this->foot.', page '.$this->getAliasNumPage().' of '.$this->getAliasNbPages(),
                    0,
                    0,
                    'C',
                );
            }
        };
        $pdf->foot = "{$specification->migration->name}, mapping version $version[number], plan $version[hash]";
        $pdf->SetTitle('Mapping specification: '.($specification->only->name ?? $specification->migration->name));
        $pdf->SetCreator('Baggage');
        $pdf->setPrintHeader(false);
        $pdf->SetMargins(14, 14, 14);
        $pdf->SetAutoPageBreak(true, 16);
        $pdf->SetFont('dejavusans', '', 9);
        $pdf->setFontSubsetting(true);
        $pdf->AddPage();
        $pdf->writeHTML(view('specification.pdf', ['specification' => $specification])->render());

        return $pdf->Output('', 'S');
    }
}
