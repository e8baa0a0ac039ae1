// All in one module: the second, the digits, the scan.
module top(input clk, input key, output reg [6:0] seg, output reg [3:0] an);
  reg [26:0] wait_second = 0;
  reg [16:0] scan = 0;
  reg [3:0] ones = 0, tens = 0, hundreds = 0, thousands = 0;
  reg [3:0] shown;

  always @(posedge clk) begin
    scan <= scan + 1;
    if (!key) begin
      wait_second <= 0;
      ones <= 0; tens <= 0; hundreds <= 0; thousands <= 0;
    end else if (wait_second == 99_999_999) begin
      wait_second <= 0;
      ones <= ones == 9 ? 0 : ones + 1;
      if (ones == 9) begin
        tens <= tens == 9 ? 0 : tens + 1;
        if (tens == 9) begin
          hundreds <= hundreds == 9 ? 0 : hundreds + 1;
          if (hundreds == 9) thousands <= thousands == 9 ? 0 : thousands + 1;
        end
      end
    end else
      wait_second <= wait_second + 1;
  end

  always @* begin
    case (scan[16:15])
      0: begin an = 4'b1110; shown = ones; end
      1: begin an = 4'b1101; shown = tens; end
      2: begin an = 4'b1011; shown = hundreds; end
      default: begin an = 4'b0111; shown = thousands; end
    endcase
    case (shown)
      0: seg = 7'b1000000;
      1: seg = 7'b1111001;
      2: seg = 7'b0100100;
      3: seg = 7'b0110000;
      4: seg = 7'b0011001;
      5: seg = 7'b0010010;
      6: seg = 7'b0000010;
      7: seg = 7'b1111000;
      8: seg = 7'b0000000;
      9: seg = 7'b0010000;
      default: seg = 7'b1111111;
    endcase
  end
endmodule
