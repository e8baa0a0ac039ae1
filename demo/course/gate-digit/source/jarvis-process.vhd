-- A process for the time, and the decoder beside it.
library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;

entity gate is
  port (clk, key : in std_logic; seg : out std_logic_vector(6 downto 0); lamp : out std_logic);
end entity;

architecture behaviour of gate is
  signal pause : natural range 0 to 4799999 := 0;
  signal value : natural range 0 to 9 := 0;
begin
  process (clk, key) begin
    if key = '0' then
      pause <= 0;
      value <= 0;
    elsif rising_edge(clk) then
      if pause = 4799999 then
        pause <= 0;
        if value = 9 then value <= 0; else value <= value + 1; end if;
      else
        pause <= pause + 1;
      end if;
    end if;
  end process;
  lamp <= '1' when value = 9 else '0';
  with value select seg <=
    "0111111" when 0, "0000110" when 1, "1011011" when 2, "1001111" when 3, "1100110" when 4,
    "1101101" when 5, "1111101" when 6, "0000111" when 7, "1111111" when 8, "1101111" when 9;
end architecture;
