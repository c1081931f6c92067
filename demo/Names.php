<?php

namespace Demo;

/** Made-up names; none belongs to a real company, person or place. */
final class Names
{
    public const FIRST = [
        'Anne',
        'Bjørn',
        'Cora',
        'Davin',
        'Elspet',
        'Fergus',
        'Greta',
        'Hamish',
        'Ines',
        'Jorun',
        'Kester',
        'Liv',
        'Maeve',
        'Niall',
        'Oona',
        'Piet',
        'Ragna',
        'Stellan',
        'Thora',
        'Una',
        'Viggo',
        'Wenda',
        'Yrsa',
        'Zoë',
    ];

    public const LAST = [
        'McKay',
        'Sund',
        'Ellingsen',
        'Tarrant',
        'Holm',
        'Brae',
        'Coull',
        'Dunnet',
        'Firth',
        'Garrioch',
        'Hestnes',
        'Isbister',
        'Kjær',
        'Linklater',
        'Muir',
        'Nørgaard',
        'O\'Shea',
        'Peterson',
        'Quoyle',
        'Rendall',
        'Sclater',
        'Tulloch',
        'Velde',
        'Wick',
        'Yorston',
    ];

    public const TRADE = [
        'Marine',
        'Boatyard',
        'Sail Loft',
        'Chandlery',
        'Fishing',
        'Charters',
        'Salvage',
        'Diving',
        'Yachts',
        'Towage',
        'Ferries',
        'Survey',
    ];

    public const PLACE = [
        'Skerry',
        'Tarn',
        'Inverlee',
        'Holmsay',
        'Quendale',
        'Stroma',
        'Ardmore',
        'Burrafirth',
        'Corran',
        'Duncraig',
        'Eskadale',
        'Fara',
        'Graemsay',
        'Hascosay',
        'Linga',
        'Noss',
        'Oxna',
        'Papa',
        'Rusk',
        'Samphrey',
    ];

    public const VESSEL = [
        'Kittiwake',
        'Grey Seal',
        'Lady Orla',
        'Tystie',
        'Skarv',
        'Tirrick',
        'Bonxie',
        'Solan',
        'Sea Pink',
        'Mallimak',
        'Wave Dancer',
        'Northern Light',
        'Maid of Holm',
        'Provider',
        'Guillemot',
        'Petrel',
        'Whimbrel',
        'Silver Darling',
        'Boy Davin',
        'Merry Dancer',
    ];

    public const TOWN = ['Inverlee', 'Orrin', 'Port Holm', 'Skerrywick', 'Quendale', 'Ardmore', 'Linganess'];

    public const HARBOUR = [
        'INV' => 'Inverlee Harbour',
        'ORR' => 'Orrin Basin',
        'PHO' => 'Port Holm',
        'SKE' => 'Skerrywick',
        'QUE' => 'Quendale Pier',
        'ARD' => 'Ardmore',
        'LIN' => 'Linganess',
    ];
}
